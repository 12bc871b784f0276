import { findingOrder, type Finding, type FindingFacts } from '@euphonos/dsp';
import { certaintyWord, inWords } from './finding-words.js';

const spans = [{ startSeconds: 1, endSeconds: 1.5 }];
const facts: Record<string, FindingFacts> = {
  'noise-floor': { kind: 'noise-floor', dbfs: -51.2, thirdOctaves: [] },
  'speech-level': { kind: 'speech-level', dbfs: -20, talkSeconds: 31 },
  'speech-to-noise': { kind: 'speech-to-noise', db: 18 },
  rumble: { kind: 'rumble', belowHz: 75, dbfs: -41, lowestVoiceHz: 98.4 },
  hum: {
    kind: 'hum',
    baseHz: 49.98,
    harmonics: [
      { hz: 49.98, dbfs: -52 },
      { hz: 99.96, dbfs: -60 },
    ],
    source: 'mains',
    driftHz: 0.02,
    fewest: [1],
  },
  hiss: { kind: 'hiss', aboveHz: 4000, dbfs: -60 },
  'dc-offset': { kind: 'dc-offset', fraction: -0.0123 },
  clipping: { kind: 'clipping', count: 1, spans, levelDbfs: -6.02, shape: 'hard' },
  clicks: { kind: 'clicks', count: 20, perMinute: 38.1, atSeconds: [2, 4] },
  plosives: { kind: 'plosives', count: 2, atSeconds: [1, 3], spans },
  breaths: { kind: 'breaths', count: 4, spans: [{ ...spans[0]!, certainty: 0.8, dbfs: -42 }] },
  pauses: { kind: 'pauses', count: 3, spans },
  sibilance: { kind: 'sibilance', db: -3, spans },
  room: { kind: 'room', decaySeconds: 0.62 },
  bandwidth: { kind: 'bandwidth', hz: 3400 },
  channel: { kind: 'channel', problem: 'quieter', channel: 2, db: 15 },
  dropouts: { kind: 'dropouts', count: 3, spans },
  bleed: { kind: 'bleed', db: -21.4, from: 2 },
  'gap-sounds': { kind: 'gap-sounds', count: 1, spans },
  'noise-passages': { kind: 'noise-passages', spans: [{ ...spans[0]!, dbfs: -52.1, withinDb: 2.3, driftDb: 0.2 }] },
};
const finding = (kind: string): Finding => ({ ...facts[kind]!, certainty: 0.9, suggestion: null });

test('every kind of finding has its words: a title, a figure, a whole sentence', () => {
  expect(Object.keys(facts).sort()).toEqual([...findingOrder].sort());
  for (const kind of findingOrder) {
    const { title, figure, sentence, gauge } = inWords(finding(kind));
    expect(title.length).toBeGreaterThan(2);
    expect(figure).not.toMatch(/undefined|NaN|-\d/);
    expect(sentence).toMatch(/[.]$/);
    if (gauge) expect(gauge.fine[0]).toBeLessThan(gauge.fine[1]);
  }
});

test.each([
  ['hum', 'Hum', '50.0 Hz'],
  ['clipping', 'Clipping', '1 peak'],
  ['clicks', 'Clicks', '38 a minute'],
  ['dc-offset', 'DC offset', '−1.23 %'],
  ['channel', 'Channels', 'right −15 dB'],
  ['bandwidth', 'Bandwidth', '3.4 kHz'],
])('%s reads %s, %s', (kind, title, figure) => {
  expect(inWords(finding(kind))).toMatchObject({ title, figure });
});

test('what was lowered after clipping is said, and clicks have a place each', () => {
  expect(inWords(finding('clipping')).sentence).toContain('lowered afterwards');
  expect(inWords(finding('clicks')).spans.map(({ startSeconds }) => startSeconds)).toEqual([2, 4]);
});

test('certainty in a word', () => {
  expect([0.95, 0.7, 0.5].map(certaintyWord)).toEqual(['sure', 'likely', 'maybe']);
});
