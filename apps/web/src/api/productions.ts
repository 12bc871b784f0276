import type {
  ChainView,
  ChangeChain,
  ChangeProduction,
  ChangeSessions,
  ListSessions,
  ProductionView,
  SessionPage,
} from '@euphonos/contracts';
import type { ChainFile } from '@euphonos/engine';
import { request } from './client.js';

export const listSessions = (asked: Partial<ListSessions>, offset: number, limit: number): Promise<SessionPage> => {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries({ ...asked, offset, limit }))
    if (value !== undefined && value !== '') query.set(name, String(value));
  return request('GET', `sessions?${query.toString()}`);
};
export const changeSessions = (body: ChangeSessions): Promise<void> => request('PATCH', 'sessions', body);
/** For good. */
export const forgetSession = (id: string): Promise<void> => request('DELETE', `sessions/${id}?final=true`);

export const listProductions = (): Promise<ProductionView[]> => request('GET', 'productions');
export const makeProduction = (name: string): Promise<ProductionView> => request('POST', 'productions', { name });
export const changeProduction = (id: string, body: ChangeProduction): Promise<ProductionView> =>
  request('PATCH', `productions/${id}`, body);
export const removeProduction = (id: string): Promise<void> => request('DELETE', `productions/${id}`);

export const listChains = (): Promise<ChainView[]> => request('GET', 'chains');
export const keepChain = (file: ChainFile): Promise<ChainView> => request('POST', 'chains', { file });
export const changeChain = (id: string, body: ChangeChain): Promise<ChainView> => request('PATCH', `chains/${id}`, body);
export const removeChain = (id: string): Promise<void> => request('DELETE', `chains/${id}`);
