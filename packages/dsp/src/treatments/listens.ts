import { highPassSection, lowPassSection, type Section } from '../filters/sections.js';

/** Which frequencies decide for what opens and closes by level. */
export const listens = {
  title: 'Listens to', default: 'all', sentence: 'Which frequencies decide.',
  options: [
    { value: 'all', title: 'everything', sentence: 'The level of the whole sound.' },
    { value: 'voice', title: 'voice band', sentence: '200 Hz to 5 kHz: rumble and hiss do not hold it open.' },
  ],
} as const;

/** What is left for the detector to hear. */
export const voiceBand = (sampleRateHz: number): Section[] => [highPassSection(200, 0.7, sampleRateHz), lowPassSection(Math.min(5000, sampleRateHz * 0.4), 0.7, sampleRateHz)];
