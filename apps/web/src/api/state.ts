import type { StateView } from '@euphonos/contracts';
import { request } from './client.js';

export const getState = (): Promise<StateView> => request('GET', 'state');
