import { defineTreatment } from '../definition.js';
import { listensToTalk, quietList } from '../listens.js';
import { GateProcessor } from './gate-processor.js';
import { parameters } from './settings.js';

export type { GateSpecs, GateValues } from './settings.js';

export const gate = defineTreatment({
  kind: 'gate',
  title: 'Gate',
  sentence: 'Lowers what is left between words, and opens again before the next one.',
  parameters,
  choices: { listens: listensToTalk },
  lists: { quiet: quietList },
  remembers: true,
  needsNoiseProfile: false,
  conflict: ({ openDb, closeDb }) =>
    openDb < closeDb ? `The gate would open at ${openDb} dBFS and close at ${closeDb} dBFS: openDb must not be below closeDb.` : undefined,
  reconcile: (values, moved) => {
    if (values.openDb >= values.closeDb) return values;
    return moved === 'openDb' ? { ...values, closeDb: values.openDb } : { ...values, openDb: values.closeDb };
  },
  summary: (values) => `opens ${values.openDb} · closes ${values.closeDb} dBFS`,
  create: (context, values) => new GateProcessor(context, values),
});
