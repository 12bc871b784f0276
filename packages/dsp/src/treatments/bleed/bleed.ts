import { defineTreatment, type ListRow, type ParameterValues } from '../definition.js';
import { apart, spanList, SpanTreatment, type SpanWay } from '../span-gains.js';

const MOST_BLEED = 4000;

const parameters = {
  reductionDb: {
    title: 'Reduction',
    unit: 'dB',
    min: 0,
    max: 40,
    default: 20,
    step: 0.5,
    practice: [12, 20],
    scale: 'linear',
    sentence: 'How far the microphone is lowered while only somebody else is heard in it.',
  },
  fadeMs: {
    title: 'Fades',
    unit: 'ms',
    min: 5,
    max: 500,
    default: 60,
    step: 5,
    practice: [30, 150],
    scale: 'linear',
    finer: true,
    sentence: 'How gently it goes down and comes back.',
  },
} as const;

type Values = ParameterValues<typeof parameters>;

const list = spanList('Bleed', MOST_BLEED, 'Where only somebody else is heard, and which of it is left as it is.', [
  'Where somebody else alone begins, in seconds of the recording.',
  'Where that ends.',
]);

/** What is lowered, in its order. */
const lowered = (values: Values) =>
  apart(
    (values['bleed'] as readonly ListRow[])
      .filter(({ state }) => state === 'treat')
      .map(({ startSeconds, endSeconds }) => ({ startSeconds: startSeconds as number, endSeconds: endSeconds as number })),
  );

const way: SpanWay<Values> = {
  kind: 'bleed',
  fadeMs: ({ fadeMs }) => fadeMs,
  spans: lowered,
  key: ({ reductionDb: _, ...rest }) => JSON.stringify(rest),
  move: (gains, { reductionDb }) => {
    gains.reductionDb = reductionDb;
  },
};

export const bleed = defineTreatment({
  kind: 'bleed',
  title: 'Bleed',
  sentence:
    'Lowers the microphone while only somebody else is heard in it. Words of its own, and talk over each other, are left as they are.',
  parameters,
  lists: { bleed: list },
  needsNoiseProfile: false,
  idle: (values) => values.reductionDb === 0 || lowered(values).length === 0,
  summary: (values) => {
    const spans = lowered(values);
    const seconds = spans.reduce((sum, { startSeconds, endSeconds }) => sum + endSeconds - startSeconds, 0);
    return spans.length === 0 ? 'not looked for yet' : `${seconds.toFixed(1)} s of others · −${values.reductionDb} dB`;
  },
  create: (context, values) => new SpanTreatment(context, way, values),
  live: { note: 'Its places are found in what was recorded: it is heard there.' },
});
