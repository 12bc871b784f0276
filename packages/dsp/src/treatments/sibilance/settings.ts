import type { ParameterValues } from '../definition.js';

export const parameters = {
  lowHz: {
    title: 'From',
    unit: 'Hz',
    min: 2000,
    max: 12000,
    default: 4500,
    step: 50,
    practice: [4000, 6000],
    scale: 'log',
    sentence: 'Lower edge of the band that is heard for an s and lowered.',
  },
  highHz: {
    title: 'To',
    unit: 'Hz',
    min: 4000,
    max: 20000,
    default: 12000,
    step: 50,
    practice: [9000, 14000],
    scale: 'log',
    sentence: 'Upper edge of that band.',
  },
  thresholdDb: {
    title: 'An s may be',
    unit: 'dB',
    min: -30,
    max: 12,
    default: -10,
    step: 0.5,
    practice: [-14, -6],
    scale: 'linear',
    sentence: 'How loud the band may be against the body of this voice. What is louder is lowered.',
  },
  reductionDb: {
    title: 'Reduction',
    unit: 'dB',
    min: 0,
    max: 24,
    default: 8,
    step: 0.5,
    practice: [3, 8],
    scale: 'linear',
    sentence: 'The most that an s is lowered. Too much makes a lisp.',
  },
  ratio: {
    title: 'Ratio',
    unit: ':1',
    min: 1.5,
    max: 20,
    default: 4,
    step: 0.5,
    practice: [3, 6],
    scale: 'log',
    finer: true,
    sentence: 'How much of what is too loud goes: at 4, three quarters.',
  },
  releaseMs: {
    title: 'Release',
    unit: 'ms',
    min: 5,
    max: 200,
    default: 30,
    step: 5,
    practice: [20, 60],
    scale: 'log',
    finer: true,
    sentence: 'How long it takes to let go after an s.',
  },
} as const;

export type SibilanceSpecs = typeof parameters;
export type SibilanceValues = ParameterValues<SibilanceSpecs>;

/** The body of a voice, and how slowly its level is followed: over about two seconds of talk. */
export const BODY_HZ = [200, 3000] as const;
export const BODY_SECONDS = 1.5;
/** A body quieter than this is no talk: the level stands. */
export const TALK_DBFS = -50;
