import { dropTake, endTake, openTakes } from '../api/takes.js';
import type { LeftTake } from '../recorder/protocol.js';

/** Somebody may record it at this moment, in another window or elsewhere. */
const SILENT_SECONDS = 30;

/** Takes that were begun and never ended, and that are on the server alone. */
export async function leftOnServer(known: readonly LeftTake[]): Promise<LeftTake[]> {
  const takes = await openTakes().catch(() => []);
  return takes
    .filter(({ id, silentSeconds, frames }) => frames > 0 && silentSeconds! > SILENT_SECONDS && !known.some((one) => one.id === id))
    .map(({ id, name, frames, sampleRateHz, startedAt }) => ({ id, name, frames, sampleRateHz, startedAt, onServer: true }));
}

/** Brings one into a session, as much as there is, or throws it away. */
export const settleOnServer = ({ id, frames }: LeftTake, keep: boolean): Promise<unknown> =>
  keep ? endTake(id, { frames, marks: [], gaps: [] }) : dropTake(id);
