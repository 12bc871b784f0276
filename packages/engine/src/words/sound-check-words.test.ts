import type { SoundCheckFigures, TakeFigures, Thresholds } from '@euphonos/dsp';
import { adviceOf, takeDifference } from './sound-check-words.js';

const fine: SoundCheckFigures = {
  floorDbfs: -66,
  riseDb: 2,
  driftDb: 0.2,
  hum: null,
  rumbleDbfs: null,
  hissDbfs: null,
  usualDbfs: -52,
  speechDbfs: -22,
  speechLufs: -21,
  peakDbtp: -8,
  clipped: 0,
  speechToNoiseDb: 44,
  plosives: 0,
  sibilanceDb: null,
  roomShareDb: -36,
  talkSeconds: 12,
  lowestVoiceHz: 96,
};
const gate: Thresholds = {
  listens: 'all',
  openDb: -47,
  closeDb: -51.5,
  recorded: { openDb: -60, closeDb: -64.5, awayDb: 16 },
  floorDb: -70,
  usualDb: -52,
  softestDb: -38,
  marginDb: 5,
  shuts: 'all',
};
const line = (title: string, figures: Partial<SoundCheckFigures>, thresholds: Partial<Thresholds> = {}) =>
  adviceOf({ ...fine, ...figures }, { ...gate, ...thresholds }).find((one) => one.title === title)!;

test('a good microphone in a good room: nothing to change', () => {
  for (const { verdict, title, sentence } of adviceOf(fine, gate)) {
    expect([title, verdict]).toEqual([title, 'good']);
    expect(sentence).toMatch(/\.$/);
  }
});

test.each([
  ['Words', { speechDbfs: -36 }, 'mend', /closer/],
  ['Words', { speechDbfs: -45 }, 'must', /closer/],
  ['Words', { speechDbfs: -12 }, 'mend', /Lower the gain by 8 dB/],
  ['Peaks', { clipped: 3, peakDbtp: 0 }, 'must', /cannot be had back/],
  ['Peaks', { peakDbtp: -2 }, 'mend', /laugh/],
  ['Words over the silence', { speechToNoiseDb: 28 }, 'mend', /fan/],
  ['Words over the silence', { speechToNoiseDb: 28, rumbleDbfs: -60 }, 'mend', /rumble/],
  ['Words over the silence', { speechToNoiseDb: 12 }, 'must', /closer/],
  ['Silence, steady', { riseDb: 9 }, 'mend', /cannot be profiled/],
  ['Room after words', { roomShareDb: -20 }, 'mend', /come closer/],
  ['Room after words', { roomShareDb: -12 }, 'must', /come closer/],
  ['Bursts of p and b', { plosives: 4 }, 'mend', /angle/],
  ['Sibilance', { sibilanceDb: 3 }, 'mend', /aside/],
] as const)('%s, %o: %s', (title, figures, verdict, words) => {
  const found = line(title, figures);
  expect(found.verdict).toBe(verdict);
  expect(found.sentence).toMatch(words);
});

test('a hum, and what makes it', () => {
  const hum = { kind: 'hum', baseHz: 50, harmonics: [{ hz: 50, dbfs: -60 }], source: 'mains', driftHz: 0, fewest: [1] } as const;
  expect(line('Hum', { hum })).toMatchObject({ figure: '50.0 Hz', verdict: 'mend' });
  expect(line('Stray tone', { hum: { ...hum, source: 'stray', baseHz: 1234 } }).sentence).toMatch(/charger/);
});

test('a gate that is impossible says so, and by how much', () => {
  const found = line('Gate', {}, { shuts: 'silence', marginDb: -7.3 });
  expect(found.verdict).toBe('mend');
  expect(found.sentence).toMatch(/impossible: 7\.3 dB are missing/);
  expect(line('Gate', {}, { shuts: 'none' })).toMatchObject({ verdict: 'must', figure: 'none' });
});

test('what cannot be mended afterwards comes first', () => {
  const verdicts = adviceOf({ ...fine, clipped: 2, speechDbfs: -34 }, gate).map(({ verdict }) => verdict);
  expect(verdicts.slice(0, 2)).toEqual(['must', 'mend']);
  expect([...verdicts].sort((a, b) => ['must', 'mend', 'good'].indexOf(a) - ['must', 'mend', 'good'].indexOf(b))).toEqual(verdicts);
});

describe('between takes', () => {
  const take: TakeFigures = { floorDbfs: -64, speechDbfs: -22, roomShareDb: -36, humHz: null, brightDb: -12 };
  test.each([
    [{}, null],
    [{ speechDbfs: -22.9, floorDbfs: -65 }, null],
    [{ speechDbfs: -26 }, '4.0 dB quieter.'.replace(/^./, (sign) => sign.toUpperCase())],
    [{ floorDbfs: -58 }, 'The silence 6.0 dB louder.'],
    [{ brightDb: -15.2, roomShareDb: -28 }, 'Duller by 3.2 dB, further from the microphone.'],
    [{ humHz: 50 }, 'A hum at 50 Hz that was not there.'],
  ])('%o', (change, words) => {
    expect(takeDifference(take, { ...take, ...change })).toBe(words);
  });
});
