import type { RoomView, StateView } from '@euphonos/contracts';
import { request } from './client.js';

export const getState = (): Promise<StateView> => request('GET', 'state');
export const getRoom = (): Promise<RoomView> => request('GET', 'room');
