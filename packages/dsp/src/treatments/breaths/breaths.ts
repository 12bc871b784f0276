import { defineTreatment, type ListRow, type ParameterValues } from '../definition.js';
import { apart, spanList, SpanTreatment, type SpanWay } from '../span-gains.js';

/** One breath: where it is, how sure that it is one, and whether it is left as it is. */
export interface Breath {
  readonly startSeconds: number;
  readonly endSeconds: number;
  readonly certaintyPercent: number;
  readonly state: 'treat' | 'leave';
}

const parameters = {
  reductionDb: {
    title: 'Reduction',
    unit: 'dB',
    min: 0,
    max: 40,
    default: 10,
    step: 0.5,
    practice: [6, 14],
    scale: 'linear',
    sentence: 'How far breaths are lowered. A speaker without any breath does not sound alive.',
  },
  fadeMs: {
    title: 'Fades',
    unit: 'ms',
    min: 5,
    max: 200,
    default: 50,
    step: 5,
    practice: [30, 80],
    scale: 'linear',
    sentence: 'How gently it goes down and comes back, within the breath and never over more than half of it.',
  },
  leastPercent: {
    title: 'As sure as',
    unit: '%',
    min: 0,
    max: 100,
    default: 50,
    step: 1,
    practice: [40, 70],
    scale: 'linear',
    sentence: 'What is less surely a breath is left as it is.',
  },
} as const;

const choices = {
  way: {
    title: 'Way',
    default: 'lower',
    sentence: 'What happens to a breath.',
    options: [
      { value: 'lower', title: 'lower', sentence: 'Lowered as a whole.' },
      { value: 'ease', title: 'ease in', sentence: 'Lowered at its beginning, rising into the word.' },
      { value: 'tone', title: 'room tone', sentence: 'Replaced by room tone, by an edit that can be given back one by one.' },
    ],
  },
} as const;

const list = spanList(
  'Breaths',
  2000,
  'Where breaths are, and which are left as they are.',
  ['Where it begins, in seconds of the recording.', 'Where it ends.'],
  {
    certaintyPercent: {
      title: 'Certainty',
      unit: '%',
      min: 0,
      max: 100,
      default: 100,
      step: 1,
      practice: [50, 100],
      scale: 'linear',
      sentence: 'How sure it is that this is a breath.',
    },
  },
);

type Values = ParameterValues<typeof parameters>;
export const asBreaths = (rows: readonly ListRow[]): readonly Breath[] => rows as unknown as readonly Breath[];

/** Breaths that are treated: sure enough and not excepted, in their order; of two that overlap the first. */
export function treatedBreaths(values: Values): Breath[] {
  return apart(
    asBreaths(values['breaths'] as readonly ListRow[]).filter(
      ({ state, certaintyPercent }) => state === 'treat' && certaintyPercent >= values.leastPercent,
    ),
  );
}

/** Breaths that are treated while they are heard: none where room tone takes their place. */
const heardBreaths = (values: Values): Breath[] => (values['way'] === 'tone' ? [] : treatedBreaths(values));

/** Moving which ones, or their fades, needs new places. */
const way: SpanWay<Values> = {
  kind: 'breaths',
  fadeMs: ({ fadeMs }) => fadeMs,
  spans: heardBreaths,
  key: (values) => JSON.stringify([values['breaths'], values.fadeMs, values.leastPercent, values['way'] === 'tone']),
  move: (gains, values) => {
    gains.reductionDb = values.reductionDb;
    gains.ease = values['way'] === 'ease';
  },
};

export const breaths = defineTreatment({
  kind: 'breaths',
  title: 'Breaths',
  sentence: 'Lowers the breaths between phrases, each with fades of its own; the words are not touched.',
  parameters,
  choices,
  lists: { breaths: list },
  idle: (values) => values['way'] === 'tone',
  idleSettings: (values) => (values['way'] === 'tone' ? ['reductionDb', 'fadeMs'] : []),
  needsNoiseProfile: false,
  summary: (values) => {
    const count = treatedBreaths(values).length;
    return count === 0
      ? 'none yet'
      : `${count === 1 ? '1 breath' : `${count} breaths`} · ${values['way'] === 'tone' ? 'room tone' : `−${values.reductionDb} dB`}`;
  },
  create: (context, values) => new SpanTreatment(context, way, values),
  live: { note: 'Its places are found in what was recorded: it is heard there.' },
});
