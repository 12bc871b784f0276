import { applyEdit, type Edit } from './edits.js';
import { record, startHistory, undo } from './history.js';
import { mixedTracks, WHOLE } from './document.js';
import { parseDocument } from './parse.js';
import { trackOf, codeOf, fresh, LENGTH, of } from '../testing/documents.js';

describe('what is known of the noise', () => {
  const spans = (...list: [number, number][]) => list.map(([startFrame, endFrame]) => ({ startFrame, endFrame }));
  const noisy = (list: { startFrame: number; endFrame: number }[], before = fresh()) =>
    applyEdit(before, { type: 'set-noise', ...of, noise: { kind: 'passages', spans: list } });

  test('passages stand in their order, those that touch are one, none is no profile', () => {
    expect(trackOf(noisy(spans([50000, 90000], [100, 40000], [30000, 45000]))).noise).toEqual({
      kind: 'passages',
      spans: spans([100, 45000], [50000, 90000]),
    });
    expect(trackOf(noisy([])).noise).toBeNull();
    expect(codeOf(() => noisy(Array.from({ length: 9 }, (_, i) => ({ startFrame: i * 1000, endFrame: i * 1000 + 500 }))))).toBe(
      'passages-many',
    );
  });

  test('a passage of the first schema is read as one of today', () => {
    const { id, name, role, reel, chain, loop } = trackOf(fresh());
    const { recordingId, channels } = reel[0]!;
    const clip = {
      id: 'clip-1',
      recordingId,
      startFrame: 0,
      source: { startFrame: 0, endFrame: LENGTH },
      channels,
      chain,
      loop,
      noisePassage: spans([10, 20000])[0],
    };
    const old = { ...fresh(), schemaVersion: 1, tracks: [{ id, name, role, clips: [clip] }] };
    expect(parseDocument(JSON.parse(JSON.stringify(old)))).toEqual(noisy(spans([10, 20000])));
  });

  test('what is kept is named, and survives a save', () => {
    const kept = applyEdit(fresh(), { type: 'set-noise', ...of, noise: { kind: 'kept', profileId: 'p1', name: 'Mill room' } });
    expect(parseDocument(JSON.parse(JSON.stringify(kept)))).toEqual(kept);
    expect(
      record(startHistory(fresh()), { type: 'set-noise', ...of, noise: { kind: 'kept', profileId: 'p1', name: 'Mill room' } }).past[0]!
        .label,
    ).toBe('Noise profile: Mill room');
  });

  test.each([
    [{ kind: 'kept', profileId: '', name: 'n' }],
    [{ kind: 'passages', spans: [] }],
    [{ kind: 'passages', spans: spans([5, 9], [7, 12]) }],
    [{ kind: 'passages', spans: spans([5, LENGTH + 1]) }],
    [{ kind: 'guess' }],
  ])('%j is refused', (noise) => {
    const document = { ...fresh(), tracks: [{ ...trackOf(fresh()), noise }] };
    expect(codeOf(() => parseDocument(JSON.parse(JSON.stringify(document))))).toBe('document-shape');
  });

  test('an edge that is dragged is one step; another passage is another', () => {
    const edit = (...list: [number, number][]): Edit => ({ type: 'set-noise', ...of, noise: { kind: 'passages', spans: spans(...list) } });
    let history = record(startHistory(fresh()), edit([0, 30000]));
    for (const end of [31000, 32000]) history = record(history, edit([0, end]), true);
    history = record(history, edit([0, 32000], [50000, 80000]), true);
    expect(history.past.map(({ label }) => label)).toEqual(['Take noise profile', 'Noise profile of 2 passages']);
  });
});

describe('several tracks', () => {
  const split = applyEdit(applyEdit(fresh(4), { type: 'set-parameter', ...of, treatmentId: 't1', name: 'cutoffHz', value: 95 }), {
    type: 'split-tracks',
    ...of,
    channels: 4,
  });

  test('a recording of four channels becomes four tracks with the same chain', () => {
    expect(split.tracks.map(({ name }) => name)).toEqual(['channel 1', 'channel 2', 'channel 3', 'channel 4']);
    expect(split.tracks.map(({ reel }) => reel[0]!.channels)).toEqual([[0], [1], [2], [3]]);
    for (const { chain } of split.tracks) expect(chain.treatments[0]).toMatchObject({ cutoffHz: 95 });
    expect(parseDocument(JSON.parse(JSON.stringify(split)))).toEqual(split);
    expect(codeOf(() => applyEdit(fresh(), { type: 'split-tracks', ...of, channels: 1 }))).toBe('tracks-one');
  });

  test('all are profiled from one span; one that is held keeps what it has', () => {
    const own = { kind: 'passages', spans: [{ startFrame: 5, endFrame: 20000 }] } as const;
    let document = applyEdit(split, { type: 'set-noise', trackId: 'track-1.3', noise: own });
    document = applyEdit(document, { type: 'hold-noise', trackId: 'track-1.3', held: true });
    const span = { startFrame: 50000, endFrame: 90000 };
    document = applyEdit(document, { type: 'profile-tracks', span });
    expect(document.tracks.map(({ noise }) => noise)).toEqual(
      [0, 1, 2, 3].map((i) => (i === 2 ? own : { kind: 'passages', spans: [span] })),
    );
    expect(applyEdit(document, { type: 'hold-noise', trackId: 'track-1.3', held: false }).tracks[2]!.noiseHeld).toBe(false);
  });

  test('the whole has passages of the session of its own, kept with versions, undone, read back', () => {
    const spans = [
      { startFrame: 30_000, endFrame: 40_000 },
      { startFrame: 0, endFrame: 20_000 },
      { startFrame: 20_000, endFrame: 25_000 },
    ];
    let history = record(startHistory(split), { type: 'set-whole-noise', spans });
    const joinedSpans = [
      { startFrame: 0, endFrame: 25_000 },
      { startFrame: 30_000, endFrame: 40_000 },
    ];
    expect(history.present.wholeNoise).toEqual(joinedSpans);
    history = record(history, { type: 'keep-version', id: 'v', name: 'V', keptAt: '2026-11-28T00:00:00Z' });
    history = record(history, { type: 'set-whole-noise', spans: [] });
    expect(history.past.map(({ label }) => label)).toEqual([
      'Whole, Noise profile of 3 passages',
      'Keep version V',
      'Whole, Drop noise profile',
    ]);
    expect(undo(history).present.wholeNoise).toEqual(joinedSpans);
    const restored = applyEdit(history.present, { type: 'restore-version', id: 'v', name: 'V' });
    expect(restored.wholeNoise).toEqual(joinedSpans);
    expect(parseDocument(JSON.parse(JSON.stringify(restored)))).toEqual(restored);
    const { wholeNoise: _, ...older } = split;
    expect(parseDocument({ ...older, schemaVersion: 5 })).toEqual(split);
    const beyond = [{ startFrame: 0, endFrame: 1e9 }];
    expect(() => applyEdit(split, { type: 'set-whole-noise', spans: beyond })).toThrow(expect.objectContaining({ code: 'span-outside' }));
    const nine = Array.from({ length: 9 }, (_, i) => ({ startFrame: 1000 * i, endFrame: 1000 * i + 500 }));
    expect(() => applyEdit(split, { type: 'set-whole-noise', spans: nine })).toThrow(expect.objectContaining({ code: 'passages-many' }));
    expect(() => parseDocument({ ...split, wholeNoise: joinedSpans.toReversed() })).toThrow(
      expect.objectContaining({ code: 'document-shape' }),
    );
  });

  test('tracks have a level among the others and can be left out; the whole has a chain', () => {
    let history = record(startHistory(split), { type: 'set-track', trackId: 'track-1.2', gainDb: -70 });
    history = record(history, { type: 'set-track', trackId: 'track-1.3', muted: true });
    history = record(history, { type: 'add-treatment', trackId: WHOLE, kind: 'tone', treatmentId: 'w' });
    history = record(history, { type: 'bypass-treatment', trackId: WHOLE, treatmentId: 'w', bypassed: true });
    expect(history.past.map(({ label }) => label)).toEqual([
      'channel 2: -70 dB',
      'Mute channel 3',
      'Whole, Add Tone',
      'Whole, Bypass Tone',
    ]);
    const document = history.present;
    expect(document.tracks.map(({ gainDb, muted }) => [gainDb, muted])).toEqual([
      [0, false],
      [-60, false],
      [0, true],
      [0, false],
    ]);
    expect(mixedTracks(document).map(({ name }) => name)).toEqual(['channel 1', 'channel 2', 'channel 4']);
    expect(document.chain.treatments).toMatchObject([{ kind: 'tone', bypassed: true }]);
    expect(parseDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    const { chain: _, ...before } = document;
    expect(parseDocument(JSON.parse(JSON.stringify(before))).chain).toEqual({ treatments: [] });
    expect(codeOf(() => applyEdit(document, { type: 'set-loop', trackId: WHOLE, span: null }))).toBe('track-unknown');
  });
});
