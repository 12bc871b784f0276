import { spanList } from '../span-gains.js';
import type { ListRow, ParameterValues } from '../definition.js';

export const MOST_TALK = 4000;

/** Where somebody speaks, in seconds of the session, and how loud that is in the mix. */
export interface TalkSpan {
  readonly startSeconds: number;
  readonly endSeconds: number;
  readonly lufs: number;
  readonly state: 'treat' | 'leave';
}

export const parameters = {
  depthDb: {
    title: 'Down by',
    unit: 'dB',
    min: 0,
    max: 40,
    default: 9,
    step: 0.1,
    practice: [6, 15],
    scale: 'linear',
    sentence: 'How far it is lowered while somebody speaks.',
  },
  thresholdLufs: {
    title: 'Speech above',
    unit: 'LUFS',
    min: -70,
    max: -10,
    default: -50,
    step: 0.5,
    practice: [-55, -35],
    scale: 'linear',
    finer: true,
    sentence: 'What is said more softly than this lowers nothing.',
  },
  attackMs: {
    title: 'Goes down in',
    unit: 'ms',
    min: 10,
    max: 2000,
    default: 300,
    step: 10,
    practice: [150, 600],
    scale: 'log',
    sentence: 'How long the way down takes; it ends before the first word.',
  },
  aheadMs: {
    title: 'Ahead',
    unit: 'ms',
    min: 0,
    max: 1000,
    default: 100,
    step: 10,
    practice: [50, 300],
    scale: 'linear',
    finer: true,
    sentence: 'It is down so long before the first word.',
  },
  holdMs: {
    title: 'Stays down',
    unit: 'ms',
    min: 0,
    max: 5000,
    default: 900,
    step: 10,
    practice: [500, 1500],
    scale: 'linear',
    sentence: 'So long after a word: it does not move between the words of a phrase.',
  },
  releaseMs: {
    title: 'Comes back in',
    unit: 'ms',
    min: 50,
    max: 8000,
    default: 1500,
    step: 50,
    practice: [800, 3000],
    scale: 'log',
    sentence: 'How slowly it comes back.',
  },
} as const;

export const choices = {
  band: {
    title: 'Lowers',
    default: 'all',
    sentence: 'What of it gives way.',
    options: [
      { value: 'all', title: 'all of it', sentence: 'Every frequency alike.' },
      {
        value: 'voice',
        title: 'the voice’s bands',
        sentence: 'Between 200 Hz and 5 kHz, where words are understood; the bass and the air of it stay.',
      },
    ],
  },
} as const;

export const talkList = {
  ...spanList(
    'Speech',
    MOST_TALK,
    'Where somebody speaks, and where it is left as it is all the same.',
    ['Where the first word begins, in seconds of the session.', 'Where the last one ends.'],
    {
      lufs: {
        title: 'Loudness',
        unit: 'LUFS',
        min: -100,
        max: 20,
        default: -20,
        step: 0.1,
        practice: [-40, -10],
        scale: 'linear',
        sentence: 'How loud it is in the mix.',
      },
    },
  ),
  ofSession: true,
} as const;

export type Values = ParameterValues<typeof parameters>;
export const asTalk = (rows: readonly ListRow[]): readonly TalkSpan[] => rows as unknown as readonly TalkSpan[];

/** What lowers it. */
export const countedTalk = (values: Values): readonly TalkSpan[] =>
  asTalk(values['talk'] as readonly ListRow[]).filter(({ lufs, state }) => state === 'treat' && lufs >= values.thresholdLufs);
