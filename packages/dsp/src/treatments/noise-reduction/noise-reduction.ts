import { defineTreatment, type ParameterValues } from '../definition.js';
import { NoiseReductionProcessor } from './noise-reduction-processor.js';

const parameters = {
  reductionDb: {
    title: 'Reduction', unit: 'dB', min: 0, max: 40, default: 12, step: 0.5, practice: [6, 12], scale: 'linear',
    sentence: 'How far the noise is lowered at most. Raise it until the voice suffers, then back off.',
  },
  thresholdDb: {
    title: 'Threshold', unit: 'dB', min: -6, max: 18, default: 3, step: 0.5, practice: [0, 6], scale: 'linear',
    sentence: 'How far above the noise profile something must be to count as voice.',
  },
  smoothingHz: {
    title: 'Smoothing', unit: 'Hz', min: 0, max: 600, default: 70, step: 5, practice: [40, 150], scale: 'linear',
    sentence: 'Width over which neighbouring frequencies share their gain: against warbling.',
  },
  openingMs: {
    title: 'Opening', unit: 'ms', min: 0, max: 100, default: 0, step: 1, practice: [0, 10], scale: 'linear', finer: true,
    sentence: 'How slowly it lets a sound through that rises out of the noise.',
  },
  closingMs: {
    title: 'Closing', unit: 'ms', min: 0, max: 400, default: 25, step: 5, practice: [10, 60], scale: 'linear', finer: true,
    sentence: 'How slowly it closes after a sound: longer keeps the ends of words.',
  },
} as const;

export type NoiseReductionValues = ParameterValues<typeof parameters>;
export type NoiseReductionSpecs = typeof parameters;

export const noiseReduction = defineTreatment({
  kind: 'noise-reduction',
  title: 'Noise reduction',
  sentence: 'Lowers steady noise (fan, hiss, air conditioning) by a profile taken from a passage with noise alone.',
  parameters,
  needsNoiseProfile: true,
  summary: (values) => `${values.reductionDb} dB · ${values.thresholdDb >= 0 ? '+' : ''}${values.thresholdDb} dB threshold`,
  create: (context, values) => new NoiseReductionProcessor(context, values),
});
