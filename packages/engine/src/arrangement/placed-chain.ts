import { treatmentOf, type ChainSpec, type ListRow, type TreatmentSettings } from '@euphonos/dsp';
import type { Clip } from '../document/clip.js';
import { Placer } from './places.js';

/** Whether every clip sounds where it stands in its recording: times of the one are times of the other. */
export const inPlace = (clips: readonly Clip[]): boolean => clips.every(({ startFrame, source }) => startFrame === source.startFrame);

/**
 * A chain whose settings name places of the recording (spans in seconds, or single times), for the sound of clips: with
 * the places where these sound. What was cut away is left out, what sounds twice is treated twice.
 */
export function placedChain(chain: ChainSpec, clips: readonly Clip[], sampleRateHz: number): ChainSpec {
  if (inPlace(clips)) return chain;
  let placer: Placer | undefined;
  const placed = (settings: TreatmentSettings): TreatmentSettings => {
    const lists = Object.entries(treatmentOf(settings.kind).lists ?? {}).filter(
      ([, { fields, ofSession }]) => fields && !ofSession && ('startSeconds' in fields || 'atSeconds' in fields),
    );
    if (lists.length === 0) return settings;
    placer ??= new Placer(clips);
    const rows = lists.map(([name]) => [
      name,
      (settings[name] as readonly ListRow[]).flatMap((row) => placedRows(row, placer!, sampleRateHz)),
    ]);
    return { ...settings, ...Object.fromEntries(rows) };
  };
  return { ...chain, treatments: chain.treatments.map(placed) };
}

function placedRows(row: ListRow, placer: Placer, sampleRateHz: number): ListRow[] {
  const { startSeconds, endSeconds, atSeconds } = row as Record<string, number | undefined>;
  const frame = (seconds: number): number => Math.round(seconds * sampleRateHz);
  if (atSeconds !== undefined) return placer.framesOf(frame(atSeconds)).map((at) => ({ ...row, atSeconds: at / sampleRateHz }));
  return placer
    .placesOf({ startFrame: frame(startSeconds!), endFrame: frame(endSeconds!) })
    .map(({ startFrame, endFrame }) => ({ ...row, startSeconds: startFrame / sampleRateHz, endSeconds: endFrame / sampleRateHz }));
}
