import type { ParameterValues } from '../definition.js';

/** Up to the one its latency is the one, beyond it the other: moving the look-ahead does not move the sound, and what is usual stays quick. */
const USUAL_LOOK_AHEAD_MS = 20;
export const MAX_LOOK_AHEAD_MS = 40;

/** How late a gate with this look-ahead is. */
export const lateMsOf = (lookAheadMs: number): number => (lookAheadMs <= USUAL_LOOK_AHEAD_MS ? USUAL_LOOK_AHEAD_MS : MAX_LOOK_AHEAD_MS);

/** Averaging time of the level detector: short against a consonant, long against a period of a low voice. */
export const DETECTOR_MS = 6;

export const parameters = {
  openDb: {
    title: 'Opens at',
    unit: 'dBFS',
    min: -90,
    max: 0,
    default: -44,
    step: 0.5,
    practice: [-50, -36],
    scale: 'linear',
    sentence: 'Level above which it opens. Four or five dB above the closing level.',
  },
  closeDb: {
    title: 'Closes at',
    unit: 'dBFS',
    min: -90,
    max: 0,
    default: -48,
    step: 0.5,
    practice: [-56, -40],
    scale: 'linear',
    sentence: 'Level below which it starts to close: just above the noise between words.',
  },
  rangeDb: {
    title: 'Range',
    unit: 'dB',
    min: 0,
    max: 80,
    default: 12,
    step: 0.5,
    practice: [6, 15],
    scale: 'linear',
    sentence: 'How far the gaps are lowered when it is closed.',
  },
  attackMs: {
    title: 'Attack',
    unit: 'ms',
    min: 0.5,
    max: 100,
    default: 10,
    step: 0.5,
    practice: [5, 15],
    scale: 'log',
    sentence: 'Time from closed to fully open.',
  },
  holdMs: {
    title: 'Hold',
    unit: 'ms',
    min: 0,
    max: 1000,
    default: 200,
    step: 5,
    practice: [150, 250],
    scale: 'linear',
    sentence: 'How long it stays open after the level fell below the closing level.',
  },
  releaseMs: {
    title: 'Release',
    unit: 'ms',
    min: 5,
    max: 2000,
    default: 150,
    step: 5,
    practice: [100, 250],
    scale: 'log',
    sentence: 'Time from open to fully closed.',
  },
  lookAheadMs: {
    title: 'Look-ahead',
    unit: 'ms',
    min: 0,
    max: MAX_LOOK_AHEAD_MS,
    default: 10,
    step: 0.5,
    practice: [5, 15],
    scale: 'linear',
    finer: true,
    sentence: 'How early it opens before a word, so that the first consonant is kept.',
  },
  awayDb: {
    title: 'Nobody talks',
    unit: 'dB',
    min: 0,
    max: 90,
    default: 90,
    step: 0.5,
    practice: [20, 90],
    scale: 'linear',
    finer: true,
    sentence: 'How much less it hears where the survey hears nobody talk: less lets what is loud open it all the same.',
  },
} as const;

/** Whether it knows from a survey where nobody talks. */
export const knowsTalk = (listens: unknown): boolean => listens === 'talk' || listens === 'words';

export type GateValues = ParameterValues<typeof parameters>;
export type GateSpecs = typeof parameters;
