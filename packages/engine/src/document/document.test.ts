import { parseChain } from '@euphonos/dsp';
import fc from 'fast-check';
import type { SessionDocument } from './document.js';
import { applyEdit, type Edit } from './edits.js';
import { record, redo, startHistory, undo } from './history.js';
import { parseDocument } from './parse.js';
import { trackOf, codeOf, fresh, LENGTH, of } from '../testing/documents.js';

/** Any edit that the first document allows, many of them also later. */
const edits: fc.Arbitrary<Edit> = fc.oneof(
  fc.record({
    type: fc.constant('set-parameter' as const),
    trackId: fc.constant('track-1'),
    treatmentId: fc.constantFrom('t1'),
    name: fc.constant('cutoffHz'),
    value: fc.double({ min: -1000, max: 2000, noNaN: true }),
  }),
  fc.record({
    type: fc.constant('bypass-treatment' as const),
    trackId: fc.constant('track-1'),
    treatmentId: fc.constantFrom('t1', 't2', 't3', 't4'),
    bypassed: fc.boolean(),
  }),
  fc.record({
    type: fc.constant('move-treatment' as const),
    trackId: fc.constant('track-1'),
    treatmentId: fc.constantFrom('t1', 't2', 't3', 't4'),
    toIndex: fc.integer({ min: -2, max: 9 }),
  }),
  fc.record({ type: fc.constant('reset-treatment' as const), trackId: fc.constant('track-1'), treatmentId: fc.constantFrom('t1', 't4') }),
  fc
    .tuple(fc.integer({ min: 0, max: LENGTH - 1 }), fc.integer({ min: 1, max: LENGTH }))
    .map(([a, b]): Edit => ({ type: 'set-loop', ...of, span: { startFrame: Math.min(a, b - 1), endFrame: b } })),
);

test('every step of a history can be undone and done again, to the same documents', () => {
  fc.assert(
    fc.property(fc.array(edits, { maxLength: 12 }), (list) => {
      const states = [startHistory(fresh())];
      for (const edit of list) states.push(record(states[states.length - 1]!, edit));
      let history = states[states.length - 1]!;
      for (let i = list.length - 1; i >= 0; i--) {
        history = undo(history);
        expect(history.present).toEqual(states[i]!.present);
      }
      expect(undo(history)).toBe(history);
      for (let i = 1; i <= list.length; i++) history = redo(history);
      expect(history.present).toEqual(states[list.length]!.present);
      expect(redo(history)).toBe(history);
    }),
  );
});

test('whatever was edited is a document that can be stored and read back', () => {
  fc.assert(
    fc.property(fc.array(edits, { maxLength: 12 }), (list) => {
      const document = list.reduce(applyEdit, fresh());
      expect(parseDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    }),
  );
});

test('edits leave the document that they are given as it was', () => {
  const before = fresh();
  const copy = JSON.stringify(before);
  applyEdit(before, { type: 'remove-treatment', ...of, treatmentId: 't1' });
  applyEdit(before, { type: 'set-parameter', ...of, treatmentId: 't1', name: 'cutoffHz', value: 300 });
  expect(JSON.stringify(before)).toBe(copy);
});

test('a value is held within its range and set on its steps', () => {
  const set = (value: number): unknown =>
    trackOf(applyEdit(fresh(), { type: 'set-parameter', ...of, treatmentId: 't1', name: 'slopeDbPerOctave', value })).chain.treatments[0]![
      'slopeDbPerOctave'
    ];
  expect([set(0), set(13), set(16), set(100)]).toEqual([6, 12, 18, 48]);
});

test('a gate never opens below where it closes: the other threshold gives way', () => {
  const move = (name: string, value: number) =>
    trackOf(applyEdit(fresh(), { type: 'set-parameter', ...of, treatmentId: 't4', name, value })).chain.treatments[3]!;
  expect(move('openDb', -60)).toMatchObject({ openDb: -60, closeDb: -60 });
  expect(move('closeDb', -20)).toMatchObject({ openDb: -20, closeDb: -20 });
});

test('treatments are added at their place in the order of work, moved, reset without losing their bypass, and removed', () => {
  let document = applyEdit(fresh(), { type: 'add-treatment', ...of, kind: 'high-pass', treatmentId: 'new' });
  const order = (): string[] => trackOf(document).chain.treatments.map(({ id }) => id!);
  expect(order()).toEqual(['t1', 'new', 't2', 't3', 't4']);
  document = applyEdit(document, { type: 'move-treatment', ...of, treatmentId: 'new', toIndex: 0 });
  expect(order()).toEqual(['new', 't1', 't2', 't3', 't4']);
  document = applyEdit(document, { type: 'set-parameter', ...of, treatmentId: 't2', name: 'baseHz', value: 60 });
  document = applyEdit(document, { type: 'reset-treatment', ...of, treatmentId: 't2' });
  expect(trackOf(document).chain.treatments[2]).toMatchObject({ id: 't2', baseHz: 50, bypassed: true });
  document = applyEdit(document, { type: 'remove-treatment', ...of, treatmentId: 't2' });
  expect(order()).toEqual(['new', 't1', 't3', 't4']);
});

describe('suggestions of a survey', () => {
  const take = (document: SessionDocument, settings: object, treatmentId = 'new'): SessionDocument =>
    applyEdit(document, {
      type: 'take-suggestion',
      ...of,
      treatmentId,
      title: 'Finding',
      settings: parseChain({ treatments: [settings] }).treatments[0]!,
    });

  test('set and switch on the treatment that is there, and keep its id', () => {
    const [, hum] = trackOf(take(fresh(), { kind: 'hum-notch', baseHz: 60, harmonicsOn: [1, 3] })).chain.treatments;
    expect(hum).toMatchObject({ id: 't2', bypassed: false, baseHz: 60, harmonicsOn: [1, 3] });
  });

  test('bring in one that is not, at its place in the order of work, as one step that says what it was', () => {
    const history = record(startHistory(fresh()), {
      type: 'take-suggestion',
      ...of,
      treatmentId: 'new',
      title: 'Clicks',
      settings: parseChain({ treatments: [{ kind: 'clicks' }] }).treatments[0]!,
    });
    expect(trackOf(history.present).chain.treatments.map(({ kind }) => kind)).toEqual([
      'clicks',
      'high-pass',
      'hum-notch',
      'noise-reduction',
      'gate',
    ]);
    expect(history.past[0]!.label).toBe('Take: Clicks');
    expect(undo(history).present).toEqual(fresh());
  });

  test('bands of tone come beside those that are there, once', () => {
    const notch = (frequencyHz: number) => ({ kind: 'tone', bands: [{ shape: 'notch', frequencyHz, q: 20 }] });
    const twice = take(take(take(fresh(), notch(1200)), notch(2400), 'again'), notch(2400), 'once more');
    const tone = trackOf(twice).chain.treatments.filter(({ kind }) => kind === 'tone');
    expect(tone.map(({ bands }) => (bands as { frequencyHz: number }[]).map(({ frequencyHz }) => frequencyHz))).toEqual([[1200, 2400]]);
  });
});

test('choices and lists are set as they are, and refused when they are wrong', () => {
  const set = (name: string, value: never, treatmentId = 't2') =>
    applyEdit(fresh(), { type: 'set-parameter', ...of, treatmentId, name, value });
  expect(trackOf(set('harmonicsOn', [2, 3] as never)).chain.treatments[1]).toMatchObject({ harmonicsOn: [2, 3] });
  expect(trackOf(set('drift', 'follow' as never)).chain.treatments[1]).toMatchObject({ drift: 'follow' });
  expect(() => set('drift', 'sideways' as never)).toThrow(/fixed, follow/);
  expect(() => set('harmonicsOn', [0] as never)).toThrow(/1 to 40/);
});

test('edits that make no sense are refused with a code', () => {
  const span = { startFrame: LENGTH - 10, endFrame: LENGTH + 1 };
  expect(codeOf(() => applyEdit(fresh(), { type: 'set-noise', ...of, noise: { kind: 'passages', spans: [span] } }))).toBe('span-outside');
  expect(codeOf(() => applyEdit(fresh(), { type: 'set-loop', trackId: 'other', span: null }))).toBe('track-unknown');
  expect(codeOf(() => applyEdit(fresh(), { type: 'reset-treatment', ...of, treatmentId: 'gone' }))).toBe('treatment-missing');
  expect(codeOf(() => applyEdit(fresh(), { type: 'set-parameter', ...of, treatmentId: 't1', name: 'colour', value: 1 }))).toBe(
    'treatment-missing',
  );
});

test('one drag of a ruler is one step; another control, or a pause, starts another', () => {
  const cutoff = (value: number): Edit => ({ type: 'set-parameter', ...of, treatmentId: 't1', name: 'cutoffHz', value });
  let history = record(startHistory(fresh()), cutoff(90));
  history = record(history, cutoff(100), true);
  history = record(history, cutoff(120), true);
  expect(history.past.map(({ label }) => label)).toEqual(['High-pass: Cutoff 120 Hz']);
  history = record(history, { type: 'bypass-treatment', ...of, treatmentId: 't1', bypassed: true }, true);
  history = record(history, cutoff(200));
  expect(history.past.map(({ label }) => label)).toEqual(['High-pass: Cutoff 120 Hz', 'Bypass High-pass', 'High-pass: Cutoff 200 Hz']);
  expect(trackOf(undo(undo(undo(history))).present).chain.treatments[0]).toMatchObject({ cutoffHz: 80, bypassed: false });
});

test('every edit has a readable label', () => {
  const label = (edit: Edit): string => record(startHistory(fresh()), edit).past[0]!.label;
  expect(label({ type: 'set-noise', ...of, noise: { kind: 'passages', spans: [{ startFrame: 0, endFrame: 90 }] } })).toBe(
    'Take noise profile',
  );
  expect(label({ type: 'set-noise', ...of, noise: null })).toBe('Drop noise profile');
  expect(label({ type: 'set-loop', ...of, span: null })).toBe('Clear loop');
  expect(label({ type: 'remove-treatment', ...of, treatmentId: 't3' })).toBe('Remove Noise reduction');
  expect(label({ type: 'move-treatment', ...of, treatmentId: 't3', toIndex: 0 })).toBe('Move Noise reduction');
  expect(label({ type: 'reset-treatment', ...of, treatmentId: 't3' })).toBe('Reset Noise reduction');
  expect(label({ type: 'add-treatment', ...of, kind: 'gate', treatmentId: 'x' })).toBe('Add Gate');
  expect(label({ type: 'set-channels', ...of, channels: [1] })).toBe('Use channel 2');
  expect(label({ type: 'set-target', target: { ...fresh().target, integratedLufs: -23 } })).toBe('Target -23 LUFS');
});

test('a new session: the whole recording, its first two channels, a chain of the usual treatments', () => {
  const track = trackOf(fresh(6));
  expect(track).toMatchObject({
    reel: [{ recordingId: 'r1', channels: [0, 1], startFrame: 0, frames: LENGTH }],
    noise: null,
    noiseHeld: false,
    clips: [{ startFrame: 0, source: { startFrame: 0, endFrame: LENGTH } }],
  });
  expect(track.chain.treatments.map(({ kind }) => kind)).toEqual(['high-pass', 'hum-notch', 'noise-reduction', 'gate']);
});

type Json = Record<string, unknown>;
/** The reel of the first track, to be broken. */
const reel = (document: { tracks: Json[] }): Json[] => document.tracks[0]!['reel'] as Json[];

describe('documents from outside', () => {
  const broken = (
    change: (document: Record<string, unknown> & { tracks: (Record<string, unknown> & { clips: Record<string, unknown>[] })[] }) => void,
  ): string => {
    const document = JSON.parse(JSON.stringify(fresh()));
    change(document);
    return codeOf(() => parseDocument(document));
  };

  test.each<[string, string, Parameters<typeof broken>[0]]>([
    ['a newer schema', 'document-version', (d) => (d['schemaVersion'] = 99)],
    ['no tracks', 'document-shape', (d) => delete (d as Record<string, unknown>)['tracks']],
    ['a clip without a name for itself', 'document-shape', (d) => (d.tracks[0]!.clips[0]!['id'] = '')],
    ['two clips of one id', 'document-shape', (d) => d.tracks[0]!.clips.push(d.tracks[0]!.clips[0]!)],
    ['a loop outside of the track', 'document-shape', (d) => (d.tracks[0]!['loop'] = { startFrame: 0, endFrame: LENGTH + 1 })],
    ['three channels', 'document-shape', (d) => (reel(d)[0]!['channels'] = [0, 1, 2])],
    ['a reel of nothing', 'document-shape', (d) => (d.tracks[0]!['reel'] = [])],
    ['a reel that begins later', 'document-shape', (d) => (reel(d)[0]!['startFrame'] = 1)],
    ['recordings over each other', 'document-shape', (d) => reel(d).push({ ...reel(d)[0]!, startFrame: LENGTH })],
    ['recordings of other channels', 'document-shape', (d) => reel(d).push({ ...reel(d)[0]!, channels: [0, 1], startFrame: 2 * LENGTH })],
    ['no clip', 'document-shape', (d) => (d.tracks[0]!.clips.length = 0)],
    ['a clip beyond its recording', 'document-shape', (d) => (d.tracks[0]!.clips[0]!['source'] = { startFrame: 0, endFrame: LENGTH + 1 })],
    ['clips over each other', 'document-shape', (d) => d.tracks[0]!.clips.push({ ...d.tracks[0]!.clips[0]!, id: 'other', startFrame: 5 })],
    ['a gain out of range', 'document-shape', (d) => (d.tracks[0]!.clips[0]!['gainDb'] = 90)],
    ['a fade of no known curve', 'document-shape', (d) => (d.tracks[0]!.clips[0]!['fadeIn'] = { frames: 0, curve: 'wild' })],
    ['a sound of no known kind', 'document-shape', (d) => (d.tracks[0]!.clips[0]!['sound'] = { kind: 'noise' })],
    [
      'a line whose points go back',
      'document-shape',
      (d) =>
        (d.tracks[0]!.clips[0]!['line'] = [
          { frame: 9, gainDb: 0 },
          { frame: 3, gainDb: 0 },
        ]),
    ],
    ['a frame that is no whole number', 'document-shape', (d) => (d.tracks[0]!.clips[0]!['startFrame'] = 0.5)],
    ['a target out of range', 'target-range', (d) => (d['target'] = { ...fresh().target, integratedLufs: 3 })],
  ])('%s is refused', (_, code, change) => {
    expect(broken(change)).toBe(code);
  });

  test('something that is no document at all is refused', () => {
    for (const value of [null, 3, 'text', []]) expect(codeOf(() => parseDocument(value))).toBe('document-shape');
  });
});

test('a second pass stands right behind its noise reduction; another box joins it', () => {
  const spot = { way: 'noise', startSeconds: 1, endSeconds: 2, lowHz: 500, highHz: 900, reductionDb: 12 };
  const edit = (treatmentId: string, startSeconds: number): Edit => ({
    type: 'add-spot',
    ...of,
    treatmentId,
    afterId: 't3',
    spot: { ...spot, startSeconds },
  });
  const once = record(startHistory(fresh()), edit('new', 1));
  expect(trackOf(once.present).chain.treatments.map(({ id }) => id)).toEqual(['t1', 't2', 't3', 'new', 't4']);
  expect(once.past).toHaveLength(1);
  const twice = trackOf(applyEdit(once.present, edit('other', 1.5))).chain.treatments;
  expect(twice.map(({ id }) => id)).toEqual(['t1', 't2', 't3', 'new', 't4']);
  expect(twice[3]!['spots']).toEqual([spot, { ...spot, startSeconds: 1.5 }]);
});
