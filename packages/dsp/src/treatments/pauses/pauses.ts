import { defineTreatment, type ListRow, type ParameterValues } from '../definition.js';
import { MOST_PAUSES } from './find-pauses.js';
import { apart, spanList, SpanTreatment, type SpanWay } from '../span-gains.js';

/** Where nobody talks, and whether it is left as it is. */
export interface Pause {
  readonly startSeconds: number;
  readonly endSeconds: number;
  readonly state: 'treat' | 'leave';
}

const parameters = {
  openDbfs: {
    title: 'Words above',
    unit: 'dBFS',
    min: -100,
    max: 0,
    default: -45,
    step: 0.5,
    practice: [-60, -35],
    scale: 'linear',
    sentence: 'Louder than this is a word. 4 to 5 dB above where it closes.',
  },
  closeDbfs: {
    title: 'Pause below',
    unit: 'dBFS',
    min: -100,
    max: 0,
    default: -50,
    step: 0.5,
    practice: [-65, -40],
    scale: 'linear',
    sentence: 'Quieter than this is a pause. Just above the noise floor.',
  },
  shortestWordMs: {
    title: 'Shortest word',
    unit: 'ms',
    min: 0,
    max: 400,
    default: 60,
    step: 5,
    practice: [40, 120],
    scale: 'linear',
    finer: true,
    sentence: 'What is loud for less than this is no word.',
  },
  reductionDb: {
    title: 'Reduction',
    unit: 'dB',
    min: 0,
    max: 60,
    default: 12,
    step: 0.5,
    practice: [6, 18],
    scale: 'linear',
    sentence: 'How far pauses are lowered. The length of the recording stays.',
  },
  shortestMs: {
    title: 'Shortest',
    unit: 'ms',
    min: 100,
    max: 3000,
    default: 400,
    step: 10,
    practice: [300, 700],
    scale: 'log',
    sentence: 'Shorter pauses are left as they are.',
  },
  afterWordMs: {
    title: 'After words',
    unit: 'ms',
    min: 0,
    max: 600,
    default: 150,
    step: 5,
    practice: [100, 250],
    scale: 'linear',
    sentence: 'So much is kept after a word: its ending, and the room behind it.',
  },
  beforeWordMs: {
    title: 'Before words',
    unit: 'ms',
    min: 0,
    max: 600,
    default: 100,
    step: 5,
    practice: [50, 200],
    scale: 'linear',
    sentence: 'So much is kept before a word: its first consonant.',
  },
  leaveMs: {
    title: 'Left over',
    unit: 'ms',
    min: 50,
    max: 5000,
    default: 600,
    step: 10,
    practice: [400, 900],
    scale: 'log',
    sentence: 'So long is what is left of a longer pause, with what is kept of it.',
  },
  fadeMs: {
    title: 'Fades',
    unit: 'ms',
    min: 5,
    max: 500,
    default: 80,
    step: 5,
    practice: [40, 150],
    scale: 'linear',
    finer: true,
    sentence: 'How gently it goes down and comes back.',
  },
} as const;

const choices = {
  way: {
    title: 'Way',
    default: 'lower',
    sentence: 'What happens to a pause.',
    options: [
      { value: 'lower', title: 'lower', sentence: 'Lowered, heard while you move it. The length stays.' },
      { value: 'close', title: 'cut', sentence: 'Cut, and what follows moves up.' },
      { value: 'shorten', title: 'shorten', sentence: 'Long ones are cut to a length.' },
      { value: 'gap', title: 'gap', sentence: 'Cut, leaving silence of the same length.' },
      { value: 'tone', title: 'room tone', sentence: 'Replaced by room tone. The length stays.' },
    ],
  },
  decides: {
    title: 'Told by',
    default: 'both',
    sentence: 'What tells a pause from a word.',
    options: [
      { value: 'both', title: 'voice and level', sentence: 'Nobody talks, and it is quiet: soft ends of words are kept.' },
      { value: 'voice', title: 'voice', sentence: 'Nobody talks, however loud it is.' },
      { value: 'level', title: 'level', sentence: 'It is quiet, whatever it is.' },
    ],
  },
} as const;

const list = spanList('Pauses', MOST_PAUSES, 'Where nobody talks, and which of it is left as it is.', [
  'Where the last word ends, in seconds of the recording.',
  'Where the next word begins.',
]);

type Values = ParameterValues<typeof parameters>;
export const asPauses = (rows: readonly ListRow[]): readonly Pause[] => rows as unknown as readonly Pause[];

/** What of a pause is lowered: without what is kept after and before words; null when it is too short, or left. */
export function loweredPart(
  { startSeconds, endSeconds, state }: Pause,
  { shortestMs, afterWordMs, beforeWordMs }: Values,
): { readonly startSeconds: number; readonly endSeconds: number } | null {
  if (state === 'leave' || endSeconds - startSeconds < shortestMs / 1000) return null;
  const part = { startSeconds: startSeconds + afterWordMs / 1000, endSeconds: endSeconds - beforeWordMs / 1000 };
  return part.endSeconds - part.startSeconds > 0.02 ? part : null;
}

/** What is treated of all pauses, in its order; of two that overlap the first. */
export function treatedPauses(values: Values): { readonly startSeconds: number; readonly endSeconds: number }[] {
  return apart(asPauses(values['pauses'] as readonly ListRow[]).flatMap((pause) => loweredPart(pause, values) ?? []));
}

/** What an edit cuts or fills of a pause, by the way that is set; null when it leaves it. */
export function takenPart(pause: Pause, values: Values): { readonly startSeconds: number; readonly endSeconds: number } | null {
  const part = loweredPart(pause, values);
  if (!part || values['way'] !== 'shorten') return part;
  const length = pause.endSeconds - pause.startSeconds;
  const taken = Math.min(length - values.leaveMs / 1000, part.endSeconds - part.startSeconds);
  if (taken <= 0.02) return null;
  // Out of the middle: the ends of a pause belong to its words.
  const middle = (part.startSeconds + part.endSeconds) / 2;
  return { startSeconds: middle - taken / 2, endSeconds: middle + taken / 2 };
}

/** What an edit cuts or fills, in its order. */
export const takenPauses = (values: Values) =>
  apart(asPauses(values['pauses'] as readonly ListRow[]).flatMap((pause) => takenPart(pause, values) ?? []));

/** What is lowered while it is heard: nothing where pauses are cut or filled, which is an edit of the clips. */
export const loweredPauses = (values: Values) => (values['way'] === 'lower' ? treatedPauses(values) : []);

/** Moving what is kept, or the fades, needs new places. */
const way: SpanWay<Values> = {
  kind: 'pauses',
  fadeMs: ({ fadeMs }) => fadeMs,
  spans: loweredPauses,
  key: ({ reductionDb: _, ...rest }) => JSON.stringify(rest),
  move: (gains, { reductionDb }) => {
    gains.reductionDb = reductionDb;
  },
};

export const pauses = defineTreatment({
  kind: 'pauses',
  title: 'Pauses',
  sentence:
    'What lies between the words: lowered as you listen, or cut, shortened, filled with room tone by an edit that can be given back piece by piece.',
  parameters,
  choices,
  lists: { pauses: list },
  needsNoiseProfile: false,
  summary: (values) => {
    const parts = takenPauses(values);
    const { title } = choices.way.options.find(({ value }) => value === values['way'])!;
    const seconds = parts.reduce((sum, { startSeconds, endSeconds }) => sum + endSeconds - startSeconds, 0);
    return parts.length === 0
      ? 'none yet'
      : `${parts.length === 1 ? '1 pause' : `${parts.length} pauses`}, ${seconds.toFixed(1)} s · ${values['way'] === 'lower' ? `−${values.reductionDb} dB` : title}`;
  },
  idle: (values) => values['way'] !== 'lower',
  idleSettings: (values) => [
    ...(values['decides'] === 'voice' ? ['openDbfs', 'closeDbfs', 'shortestWordMs'] : []),
    ...(values['way'] === 'lower' ? [] : ['reductionDb', 'fadeMs']),
    ...(values['way'] === 'shorten' ? [] : ['leaveMs']),
  ],
  conflict: ({ openDbfs, closeDbfs }) =>
    openDbfs < closeDbfs ? `openDbfs (${openDbfs}) must not be below closeDbfs (${closeDbfs}).` : undefined,
  reconcile: (values, moved) =>
    values.openDbfs >= values.closeDbfs
      ? values
      : moved === 'openDbfs'
        ? { ...values, closeDbfs: values.openDbfs }
        : { ...values, openDbfs: values.closeDbfs },
  create: (context, values) => new SpanTreatment(context, way, values),
  live: { note: 'Its places are found in what was recorded: it is heard there.' },
});
