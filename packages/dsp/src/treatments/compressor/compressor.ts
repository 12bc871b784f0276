import { defineTreatment } from '../definition.js';
import { Compressor } from './compressor-processor.js';
import { choices, parameters } from './settings.js';

export const compressor = defineTreatment({
  kind: 'compressor',
  title: 'Compressor',
  sentence: 'Brings loud and quiet nearer to each other, word by word: loud down, or quiet up.',
  parameters,
  choices,
  remembers: true,
  mayRaise: true,
  needsNoiseProfile: false,
  idleSettings: (values) => (values['direction'] === 'up' ? [] : ['rangeDb', 'floorDbfs']),
  summary: (values) =>
    `${values['direction'] === 'up' ? 'quiet up' : 'loud down'} · ${values.ratio}:1 from ${values.thresholdDb} dBFS` +
    (values.makeUpDb === 0 ? '' : ` · ${values.makeUpDb > 0 ? '+' : ''}${values.makeUpDb} dB`),
  create: (context, values) => new Compressor(context, values),
});
