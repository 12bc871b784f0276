import { meanWithin, powerToLufs, StepLoudness, type SpanSeconds, type Spoken } from '@euphonos/dsp';

/** How loud speech is while it is spoken, and what lies under it then. */
export interface SpeechOverBed {
  /** null where nobody speaks. */
  readonly speechLufs: number | null;
  readonly bedLufs: number | null;
  /** How far the speech stands above the bed, LU. */
  readonly overLu: number | null;
}

/** Range of what a bed can be asked to be lowered by. */
export const DEPTH_DB = { min: 0, max: 40 } as const;

/** Where a bed is softer than BS.1770's absolute gate (-70 LUFS) it has ended: nothing lies under the speech there. */
const SILENT_POWER = 10 ** ((-70 + 0.691) / 10);

/** Stretches as one: in order, none over another. */
export function joined(spans: readonly SpanSeconds[]): SpanSeconds[] {
  const found: SpanSeconds[] = [];
  for (const { startSeconds, endSeconds } of [...spans].sort((a, b) => a.startSeconds - b.startSeconds)) {
    const last = found[found.length - 1];
    if (last && startSeconds <= last.endSeconds)
      found[found.length - 1] = { startSeconds: last.startSeconds, endSeconds: Math.max(last.endSeconds, endSeconds) };
    else found.push({ startSeconds, endSeconds });
  }
  return found;
}

/**
 * Loudness of speech (gated, BS.1770-5, so that what lies between words has no part in it), and of what lies under it while somebody speaks
 * (mean power, eq. 2).
 * @param speech powers of every speech track, steps alike. @param bed those of the bed. @param talk where anybody speaks
 */
export function speechOverBed(
  speech: readonly Float32Array[],
  bed: Float32Array,
  stepSeconds: number,
  talk: readonly SpanSeconds[],
): SpeechOverBed {
  const spans = joined(talk);
  const known = (power: number): number | null => (power > 1e-12 ? powerToLufs(power) : null);
  const together = new StepLoudness();
  for (let i = 0; i < Math.max(0, ...speech.map((powers) => powers.length)); i++)
    together.add(speech.reduce((sum, powers) => sum + (powers[i] ?? 0), 0));
  const speechLufs = spans.length === 0 ? null : (together.integratedLufs ?? null);
  const bedLufs = known(meanWithin(bed, stepSeconds, spans, SILENT_POWER));
  return { speechLufs, bedLufs, overLu: speechLufs === null || bedLufs === null ? null : speechLufs - bedLufs };
}

/** What a bed is to be lowered by so that speech stands `wishLu` above it; it is lowered by `depthDb` now. */
export const depthFor = (wishLu: number, overLu: number, depthDb: number): number =>
  Math.round(10 * Math.max(DEPTH_DB.min, Math.min(DEPTH_DB.max, depthDb + wishLu - overLu))) / 10;

/** Share of two sets of stretches that only one of them has, of all that either has: 0 when they are the same. */
export function differingShare(a: readonly SpanSeconds[], b: readonly SpanSeconds[]): number {
  const length = (spans: readonly SpanSeconds[]): number => spans.reduce((sum, one) => sum + one.endSeconds - one.startSeconds, 0);
  const [one, other] = [joined(a), joined(b)];
  const either = length(joined([...one, ...other]));
  return either === 0 ? 0 : (2 * either - length(one) - length(other)) / either;
}

/** The talk of several tracks as rows of the treatment: in order; where they overlap the louder counts. */
export function talkRows(
  spoken: readonly (readonly Spoken[])[],
): { startSeconds: number; endSeconds: number; lufs: number; state: 'treat' }[] {
  return spoken
    .flat()
    .sort((a, b) => a.startSeconds - b.startSeconds)
    .map(({ startSeconds, endSeconds, lufs }) => ({ startSeconds, endSeconds, lufs, state: 'treat' }));
}
