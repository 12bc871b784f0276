import { defaultValues, settingNames, type ParameterValues } from '../definition.js';

export const parameters = {
  reductionDb: {
    title: 'Reduction',
    unit: 'dB',
    min: 0,
    max: 40,
    default: 12,
    step: 0.5,
    practice: [6, 12],
    scale: 'linear',
    sentence: 'How far the noise is lowered at most. Raise it until the voice suffers, then back off.',
  },
  thresholdDb: {
    title: 'Threshold',
    unit: 'dB',
    min: -6,
    max: 18,
    default: 0,
    step: 0.5,
    practice: [0, 6],
    scale: 'linear',
    sentence: 'How far above the known noise something must be to count as voice.',
  },
  smoothingHz: {
    title: 'Smoothing',
    unit: 'Hz',
    min: 0,
    max: 600,
    default: 0,
    step: 5,
    practice: [0, 150],
    scale: 'linear',
    finer: true,
    sentence: 'Width over which neighbouring frequencies share their gain: against warbling.',
  },
  openingMs: {
    title: 'Opening',
    unit: 'ms',
    min: 0,
    max: 100,
    default: 0,
    step: 1,
    practice: [0, 10],
    scale: 'linear',
    finer: true,
    sentence: 'How slowly it lets a sound through that rises out of the noise.',
  },
  closingMs: {
    title: 'Closing',
    unit: 'ms',
    min: 0,
    max: 400,
    default: 10,
    step: 5,
    practice: [0, 60],
    scale: 'linear',
    finer: true,
    sentence: 'How slowly it closes after a sound: longer keeps the ends of words.',
  },
  tonalPercent: {
    title: 'Tonal rest',
    unit: '%',
    min: 0,
    max: 100,
    default: 100,
    step: 5,
    practice: [50, 100],
    scale: 'linear',
    finer: true,
    sentence:
      'How much of the tones in the noise stays in its rest: 100 leaves the room its colour, 0 lowers tones to what is around them.',
  },
  lowsDb: {
    title: 'Lows',
    unit: 'dB',
    min: -24,
    max: 24,
    default: 0,
    step: 0.5,
    practice: [-6, 6],
    scale: 'linear',
    finer: true,
    sentence: 'More or less reduction below 300 Hz.',
  },
  highsDb: {
    title: 'Highs',
    unit: 'dB',
    min: -24,
    max: 24,
    default: 0,
    step: 0.5,
    practice: [-6, 6],
    scale: 'linear',
    finer: true,
    sentence: 'More or less reduction above 4 kHz.',
  },
  fromHz: {
    title: 'From',
    unit: 'Hz',
    min: 20,
    max: 16000,
    default: 20,
    step: 1,
    practice: [20, 500],
    scale: 'log',
    finer: true,
    sentence: 'Below this frequency nothing is touched; at 20 Hz there is no limit.',
  },
  toHz: {
    title: 'To',
    unit: 'Hz',
    min: 100,
    max: 24000,
    default: 24000,
    step: 1,
    practice: [4000, 24000],
    scale: 'log',
    finer: true,
    sentence: 'Above this frequency nothing is touched; at 24 kHz there is no limit.',
  },
} as const;

export const choices = {
  mode: {
    title: 'Noise',
    default: 'follow',
    sentence: 'How the noise is known.',
    options: [
      { value: 'fixed', title: 'as profiled', sentence: 'The profile of the passage, as it stands.' },
      {
        value: 'follow',
        title: 'profile follows',
        sentence: 'The profile follows slow changes of level, in 22 regions, by up to 12 dB.',
      },
      { value: 'tracked', title: 'tracked', sentence: 'No passage needed: the noise is estimated all the time, good after a second.' },
      {
        value: 'voice',
        title: 'by itself',
        sentence: 'One control: the noise is tracked, and everything else is set by itself.',
      },
    ],
  },
  network: {
    title: 'Network',
    default: 'full',
    finer: true,
    sentence: 'How much is computed to tell voice from noise.',
    options: [
      { value: 'full', title: 'full', sentence: 'Hears single harmonics: more of the voice stays, more of the noise goes.' },
      { value: 'light', title: 'light', sentence: 'For weak machines: a fifth of the work, and a coarser ear.' },
      {
        value: 'deep',
        title: 'deep',
        sentence: 'Asks a second network, trained elsewhere on much speech: words stay clearer, for some fifteen times the work.',
        prepared: true,
      },
    ],
  },
} as const;

/** How a chain was treated that was stored before a setting was known: it goes on sounding so. */
export const formerly = { network: 'light' } as const;

export const lists = {
  curve: {
    title: 'Curve',
    most: 12,
    sentence: 'Points of a curve over frequency: more or less reduction there, and nothing an octave beyond the outer ones.',
    fields: {
      frequencyHz: {
        title: 'Frequency',
        unit: 'Hz',
        min: 20,
        max: 20000,
        default: 1000,
        step: 1,
        practice: [100, 8000],
        scale: 'log',
        sentence: 'Where the point stands.',
      },
      offsetDb: {
        title: 'Offset',
        unit: 'dB',
        min: -24,
        max: 24,
        default: 0,
        step: 0.5,
        practice: [-12, 12],
        scale: 'linear',
        sentence: 'Added to the reduction.',
      },
    },
  },
} as const;

export type NoiseReductionValues = ParameterValues<typeof parameters>;
export type NoiseReductionSpecs = typeof parameters;

/** Whether the noise is known by a profile, or estimated all the time. */
export const isProfiled = (values: NoiseReductionValues): boolean => values['mode'] === 'fixed' || values['mode'] === 'follow';

/** What counts for nothing as it is set: tones are known of a profile only, and by itself it has one control. */
export function idleSettings(values: NoiseReductionValues): readonly string[] {
  if (values['mode'] === 'voice')
    return settingNames({ parameters, choices, lists }).filter((name) => name !== 'mode' && name !== 'reductionDb' && name !== 'network');
  return isProfiled(values) ? [] : ['tonalPercent'];
}

/** The values that count: what is idle stands at its default. */
export function effectiveValues(values: NoiseReductionValues): NoiseReductionValues {
  const defaults = defaultValues({ parameters, choices, lists });
  const idle = idleSettings(values);
  return { ...values, ...Object.fromEntries(idle.map((name) => [name, defaults[name]])) } as NoiseReductionValues;
}
