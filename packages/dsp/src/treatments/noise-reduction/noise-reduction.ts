import { defineTreatment } from '../definition.js';
import { LiveNoiseReduction } from './live-noise-reduction.js';
import { NoiseReductionProcessor } from './noise-reduction-processor.js';
import { choices, formerly, idleSettings, isProfiled, lists, parameters } from './settings.js';

export type { NoiseReductionSpecs, NoiseReductionValues } from './settings.js';

const MODE_WORDS: Readonly<Record<string, string>> = { fixed: ' · as profiled', tracked: ' · tracked', voice: ' · by itself' };

export const noiseReduction = defineTreatment({
  kind: 'noise-reduction',
  title: 'Noise reduction',
  sentence: 'Lowers steady noise (fan, hiss, air conditioning): by a profile of a passage with noise alone, or by tracking it.',
  parameters,
  choices,
  formerly,
  lists,
  background: (values) => values['network'] === 'deep',
  remembers: true,
  needsNoiseProfile: true,
  worksWithoutProfile: (values) => !isProfiled(values),
  idleSettings,
  conflict: ({ fromHz, toHz }) => (fromHz >= toHz ? `"From" (${fromHz} Hz) must lie below "to" (${toHz} Hz).` : undefined),
  reconcile: (values, moved) =>
    values.fromHz < values.toHz
      ? values
      : moved === 'fromHz'
        ? { ...values, toHz: Math.min(24000, Math.max(100, values.fromHz + 1)) }
        : { ...values, fromHz: Math.max(20, values.toHz - 1) },
  summary: (values) =>
    `${values.reductionDb} dB` +
    (values['mode'] === 'voice' || values.thresholdDb === 0
      ? ''
      : ` · ${values.thresholdDb >= 0 ? '+' : ''}${values.thresholdDb} dB threshold`) +
    (MODE_WORDS[values['mode'] as string] ?? '') +
    (values['network'] === 'deep' ? ' · deep' : ''),
  create: (context, values) => new NoiseReductionProcessor(context, values),
  live: {
    create: (context, values) => new LiveNoiseReduction(context, values),
    note: 'Without the network, which hears ahead: a little more of the noise stays, a little more of the voice goes.',
  },
});
