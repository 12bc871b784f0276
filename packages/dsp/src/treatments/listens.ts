import { MOST_PAUSES } from './pauses/find-pauses.js';
import type { ListSpec } from './definition.js';
import { highPassSection, lowPassSection, type Section } from '../filters/sections.js';

/** Which frequencies decide for what opens and closes by level. */
export const listens = {
  title: 'Listens to',
  default: 'all',
  sentence: 'Which frequencies decide.',
  options: [
    { value: 'all', title: 'everything', sentence: 'The level of the whole sound.' },
    { value: 'voice', title: 'voice band', sentence: '200 Hz to 5 kHz: rumble and hiss do not hold it open.' },
  ],
} as const;

/** The same, and who: a gate may know from a survey where nobody talks. */
export const listensToTalk = {
  ...listens,
  options: [
    ...listens.options,
    {
      value: 'talk',
      title: 'talk',
      sentence: 'The voice band, where somebody talks: soft ends of words keep it open, chairs and breaths do not open it.',
    },
    {
      value: 'words',
      title: 'words',
      sentence: 'Everything, where somebody talks: an s at the beginning of a word opens it too.',
    },
  ],
} as const;

const time = (title: string, sentence: string) =>
  ({ title, unit: 's', min: 0, max: 86400, default: 0, step: 0.001, practice: [0, 86400], scale: 'linear', sentence }) as const;

/** Where nobody talks, as a survey hears it. */
export const quietList: ListSpec = {
  title: 'Nobody talks',
  most: MOST_PAUSES,
  sentence: 'Where the survey hears nobody talk.',
  fields: {
    startSeconds: time('From', 'Where the last word ends, in seconds of the recording.'),
    endSeconds: time('To', 'Where the next word begins.'),
  },
  conflict: ({ startSeconds, endSeconds }) =>
    (startSeconds as number) >= (endSeconds as number)
      ? `startSeconds (${startSeconds}) must be before endSeconds (${endSeconds}).`
      : undefined,
};

/** What is left for the detector to hear. */
export const voiceBand = (sampleRateHz: number): Section[] => [
  highPassSection(200, 0.7, sampleRateHz),
  lowPassSection(Math.min(5000, sampleRateHz * 0.4), 0.7, sampleRateHz),
];
