import type { ProcessorContext } from '../../processor.js';
import { defineTreatment, type ListRow, type ParameterValues, type TreatmentProcessor } from '../definition.js';
import { apart, gainPlace, SpanGains, spanList } from '../span-gains.js';

/** Where nobody talks, and whether it is left as it is. */
export interface Pause {
  readonly startSeconds: number;
  readonly endSeconds: number;
  readonly state: 'treat' | 'leave';
}

const parameters = {
  reductionDb: {
    title: 'Reduction', unit: 'dB', min: 0, max: 60, default: 12, step: 0.5, practice: [6, 18], scale: 'linear',
    sentence: 'How far pauses are lowered. The length of the recording stays.',
  },
  shortestMs: {
    title: 'Shortest', unit: 'ms', min: 100, max: 3000, default: 400, step: 10, practice: [300, 700], scale: 'log',
    sentence: 'Shorter pauses are left as they are.',
  },
  afterWordMs: {
    title: 'After words', unit: 'ms', min: 0, max: 600, default: 150, step: 5, practice: [100, 250], scale: 'linear',
    sentence: 'So much is kept after a word: its ending, and the room behind it.',
  },
  beforeWordMs: {
    title: 'Before words', unit: 'ms', min: 0, max: 600, default: 100, step: 5, practice: [50, 200], scale: 'linear',
    sentence: 'So much is kept before a word: its first consonant.',
  },
  fadeMs: {
    title: 'Fades', unit: 'ms', min: 5, max: 500, default: 80, step: 5, practice: [40, 150], scale: 'linear', finer: true,
    sentence: 'How gently it goes down and comes back.',
  },
} as const;

const list = spanList('Pauses', 4000, 'Where nobody talks, and which of it is left as it is.', ['Where the last word ends, in seconds of the recording.', 'Where the next word begins.']);

type Values = ParameterValues<typeof parameters>;
export const asPauses = (rows: readonly ListRow[]): readonly Pause[] => rows as unknown as readonly Pause[];

/** What of a pause is lowered: without what is kept after and before words; null when it is too short, or left. */
export function loweredPart({ startSeconds, endSeconds, state }: Pause, { shortestMs, afterWordMs, beforeWordMs }: Values): { readonly startSeconds: number; readonly endSeconds: number } | null {
  if (state === 'leave' || endSeconds - startSeconds < shortestMs / 1000) return null;
  const part = { startSeconds: startSeconds + afterWordMs / 1000, endSeconds: endSeconds - beforeWordMs / 1000 };
  return part.endSeconds - part.startSeconds > 0.02 ? part : null;
}

/** Everything that is lowered, in its order; of two that overlap the first. */
export function loweredPauses(values: Values): { readonly startSeconds: number; readonly endSeconds: number }[] {
  return apart(asPauses(values['pauses'] as readonly ListRow[]).flatMap((pause) => loweredPart(pause, values) ?? []));
}

/** A gain over each pause; moving what is kept or the fades needs new places. */
class Pauses extends SpanGains implements TreatmentProcessor<typeof parameters> {
  readonly #key: string;

  constructor(context: ProcessorContext, values: Values) {
    super(context, 'pauses', loweredPauses(values).map(({ startSeconds, endSeconds }) => gainPlace(startSeconds, endSeconds, values.fadeMs, context.sampleRateHz)));
    this.#key = keyOf(values);
    this.setParameters(values);
  }

  setParameters(values: Values): boolean {
    if (keyOf(values) !== this.#key) return false;
    this.reductionDb = values.reductionDb;
    return true;
  }
}

const keyOf = ({ reductionDb: _, ...rest }: Values): string => JSON.stringify(rest);

export const pauses = defineTreatment({
  kind: 'pauses',
  title: 'Pauses',
  sentence: 'Lowers what lies between the words, where the survey hears nobody talk; the words are not touched.',
  parameters,
  lists: { pauses: list },
  background: true,
  needsNoiseProfile: false,
  summary: (values) => {
    const parts = loweredPauses(values);
    const seconds = parts.reduce((sum, { startSeconds, endSeconds }) => sum + endSeconds - startSeconds, 0);
    return parts.length === 0 ? 'none yet' : `${parts.length === 1 ? '1 pause' : `${parts.length} pauses`}, ${seconds.toFixed(1)} s · −${values.reductionDb} dB`;
  },
  create: (context, values) => new Pauses(context, values),
});
