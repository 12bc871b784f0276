import type { ParameterValues } from '../definition.js';

export const parameters = {
  limitHz: {
    title: 'Below',
    unit: 'Hz',
    min: 60,
    max: 300,
    default: 140,
    step: 5,
    practice: [100, 150],
    scale: 'log',
    sentence: 'Only what lies below is lowered, and only while a burst lasts.',
  },
  reductionDb: {
    title: 'Reduction',
    unit: 'dB',
    min: 0,
    max: 40,
    default: 24,
    step: 0.5,
    practice: [12, 24],
    scale: 'linear',
    sentence: 'The most that a burst is lowered; never below what the low end was just before it.',
  },
  sensitivityDb: {
    title: 'Burst above',
    unit: 'dB',
    min: 3,
    max: 20,
    default: 8,
    step: 0.5,
    practice: [6, 12],
    scale: 'linear',
    finer: true,
    sentence: 'How far the low end must rise above the voice, and above itself, to count as a burst.',
  },
} as const;

export type PlosiveSpecs = typeof parameters;
export type PlosiveValues = ParameterValues<PlosiveSpecs>;

/** Quieter than this it is nobody's trouble: RMS of the low end. */
export const LEAST_DBFS = -50;
