import type { ChangeTake, EndTake, TakeView } from '@euphonos/contracts';
import { request } from './client.js';
import { unreachable } from './problem.js';

/** Those that were begun and never ended. */
export const openTakes = (): Promise<TakeView[]> => request('GET', 'takes');
/** What is there of a take is all of it. */
export const endTake = (id: string, body: EndTake): Promise<TakeView> => request('POST', `takes/${id}/end`, body);
export const dropTake = (id: string): Promise<void> => request('DELETE', `takes/${id}`);
export const getTake = (id: string): Promise<TakeView> => request('GET', `takes/${id}`);
export const changeTake = (id: string, body: ChangeTake): Promise<TakeView> => request('PATCH', `takes/${id}`, body);

/** The first samples of a recording's first channel. */
export async function takeSamples(recordingId: string, frames: number): Promise<Float32Array> {
  const response = await fetch(`/api/recordings/${recordingId}/channels/0`, { headers: { range: `bytes=0-${4 * frames - 1}` } }).catch(
    () => {
      throw unreachable();
    },
  );
  if (!response.ok) throw unreachable();
  return new Float32Array(await response.arrayBuffer());
}
