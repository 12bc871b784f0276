import { defineTreatment } from '../definition.js';
import { listensToTalk, quietList } from '../listens.js';
import { GateProcessor } from './gate-processor.js';
import { knowsTalk, parameters, type GateValues } from './settings.js';

export type { GateSpecs, GateValues } from './settings.js';

/** On a microphone that is heard at once. */
const LIVE_LATE_MS = 1;
/** From closed to open within so long: what it does not hear ahead it must make up for. */
const LIVE_ATTACK_MS = 2;
const asHeardLive = (values: GateValues): GateValues => ({
  ...values,
  attackMs: Math.min(values.attackMs, LIVE_ATTACK_MS),
  listens: values['listens'] === 'talk' ? 'voice' : values['listens'] === 'words' ? 'all' : values['listens'],
});

export const gate = defineTreatment({
  kind: 'gate',
  title: 'Gate',
  sentence: 'Lowers what is left between words, and opens again before the next one.',
  parameters,
  choices: { listens: listensToTalk },
  lists: { quiet: quietList },
  idleSettings: (values) => (knowsTalk(values['listens']) ? [] : ['awayDb']),
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
  live: {
    create: (context, values) => new GateProcessor(context, values, LIVE_LATE_MS),
    values: asHeardLive,
    note: 'By level alone, 1 ms ahead. In what is recorded it knows who talks, hears 40 ms ahead, and opens for softer beginnings.',
  },
});
