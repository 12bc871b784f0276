import fc from 'fast-check';
import { readArranged } from '../arrangement/arranged-sound.js';
import { endOf, recordingFrameAt, takenFinder } from '../arrangement/places.js';
import { codeOf, fresh, LENGTH, of, trackOf } from '../testing/documents.js';
import { createDocument } from './create.js';
import { MOST_TRACKS, type SessionDocument } from './document.js';
import { applyEdit, type Edit } from './edits.js';
import { record, startHistory, undo } from './history.js';
import { parseDocument } from './parse.js';
import { liesInPart, partAt, partEnd, partsIn, reelFrames, type RecordingFacts } from './reel.js';

const take = (id: string, lengthFrames = 100_000, channels = 1, sampleRateHz = 48_000): RecordingFacts => ({
  id,
  name: id,
  lengthFrames,
  sampleRateHz,
  channels,
});
const stored = (document: SessionDocument): SessionDocument => parseDocument(JSON.parse(JSON.stringify(document)));
const added = applyEdit(fresh(), { type: 'add-recording', ...of, recording: take('r2') });
const span = (startFrame: number, endFrame: number) => ({ startFrame, endFrame });

describe('the reel', () => {
  test('recordings lie apart, a frame names one of them, and a span lies in one or in none', () => {
    const { reel } = trackOf(added);
    const [first, second] = reel;
    expect(reel).toHaveLength(2);
    expect(second!.startFrame).toBeGreaterThan(partEnd(first!) + 30 * 48_000);
    expect(second!.startFrame % 65_536).toBe(0);
    expect(partAt(reel, LENGTH - 1)).toBe(first);
    expect(partAt(reel, second!.startFrame)).toBe(second);
    expect(liesInPart(reel, span(LENGTH - 10, LENGTH))).toBe(true);
    expect(liesInPart(reel, span(LENGTH - 10, LENGTH + 1))).toBe(false);
    expect(liesInPart(reel, span(second!.startFrame - 1, second!.startFrame + 5))).toBe(false);
    expect(partsIn(reel, span(LENGTH - 10, second!.startFrame + 20)).map((piece) => piece.span)).toEqual([
      span(LENGTH - 10, LENGTH),
      span(second!.startFrame, second!.startFrame + 20),
    ]);
    expect(reelFrames(reel)).toBe(second!.startFrame + 100_000);
  });

  test('a mono recording serves both channels of a stereo track; of a stereo one a mono track hears the first', () => {
    const stereo = applyEdit(fresh(2), { type: 'add-recording', ...of, recording: take('mono') });
    expect(trackOf(stereo).reel.map(({ channels }) => channels)).toEqual([
      [0, 1],
      [0, 0],
    ]);
    const mono = applyEdit(fresh(1), { type: 'add-recording', ...of, recording: take('stereo', 100_000, 2) });
    expect(trackOf(mono).reel.map(({ channels }) => channels)).toEqual([[0], [0]]);
    expect(stored(stereo)).toEqual(stereo);
  });

  test('a document of the third schema is read as one recording', () => {
    const { reel, ...rest } = trackOf(fresh(2));
    const old = { ...rest, recordingId: 'r1', recordingFrames: LENGTH, channels: reel[0]!.channels };
    expect(stored({ ...fresh(2), schemaVersion: 3, tracks: [old] } as unknown as SessionDocument)).toEqual(fresh(2));
  });
});

describe('a session of several recordings', () => {
  const three = [take('a', 100_000), take('b', 50_000, 2), take('c', 70_000)];

  test('a track each, from where they state', () => {
    const { tracks, sampleRateHz } = createDocument(three, 'tracks', [0, 48_000]);
    expect(sampleRateHz).toBe(48_000);
    expect(tracks.map(({ id, name, clips }) => [id, name, clips[0]!.startFrame, endOf(clips)])).toEqual([
      ['track-1', 'a', 0, 100_000],
      ['track-2', 'b', 48_000, 98_000],
      ['track-3', 'c', 0, 70_000],
    ]);
    expect(tracks[1]!.reel[0]!.channels).toEqual([0, 1]);
    const many = Array.from({ length: MOST_TRACKS + 1 }, (_, i) => take(`r${i}`));
    expect(codeOf(() => createDocument(many))).toBe('tracks-many');
    expect(createDocument(many, 'sequence').tracks).toHaveLength(1);
  });

  test('in sequence on one track: each sounds after the other, to the sample', async () => {
    const [track] = createDocument(three, 'sequence').tracks;
    expect(track!.clips.map(({ startFrame }) => startFrame)).toEqual([0, 100_000, 150_000]);
    // Every frame of the reel has a value of its own.
    const read = (from: number, to: number) => Promise.resolve([Float32Array.from({ length: to - from }, (_, n) => (from + n) / 2 ** 24)]);
    const arrangement = { clips: track!.clips, recordingFrames: reelFrames(track!.reel), sampleRateHz: 48_000, tone: null };
    const [out] = await readArranged(arrangement, 1, read, 0, 220_000);
    for (const frame of [0, 50_000, 99_000, 101_000, 149_000, 151_000, 219_999])
      expect(out![frame]! * 2 ** 24).toBeCloseTo(recordingFrameAt(track!.clips, frame)!, 0);
  });
});

describe('edits of tracks', () => {
  test('a recording comes onto a track of its own or behind what is there; both can be undone and stored', () => {
    const edits: Edit[] = [
      { type: 'add-track', newId: 'guest', recording: take('r2'), startFrame: 5000 },
      { type: 'add-recording', trackId: 'guest', recording: take('r3'), startFrame: 200_000 },
    ];
    let history = startHistory(fresh());
    for (const edit of edits) history = record(history, edit);
    expect(history.past.map(({ label }) => label)).toEqual(['Track of r2', 'r3 onto r2']);
    const guest = history.present.tracks[1]!;
    expect(guest.clips.map(({ startFrame, source }) => [startFrame, source.startFrame])).toEqual([
      [5000, 0],
      [200_000, guest.reel[1]!.startFrame],
    ]);
    expect(stored(history.present)).toEqual(history.present);
    expect(undo(undo(history)).present).toEqual(fresh());
    expect(codeOf(() => applyEdit(history.present, edits[0]!))).toBe('document-shape');
    expect(codeOf(() => applyEdit(fresh(), { type: 'add-track', newId: 'x', recording: take('r2', 1000, 1, 44_100) }))).toBe('rate-other');
  });

  test('another take of the same length stands in its place, and every edit stays', () => {
    const cut = applyEdit(added, { type: 'cut-spans', ...of, spans: [span(1000, 5000)], close: true });
    const { reel, clips } = trackOf(cut);
    const edit = { type: 'exchange-recording', ...of, atFrame: reel[1]!.startFrame + 7, recording: take('better') } as const;
    const after = trackOf(applyEdit(cut, edit));
    expect(after.reel.map(({ recordingId, startFrame }) => [recordingId, startFrame])).toEqual([
      ['r1', 0],
      ['better', reel[1]!.startFrame],
    ]);
    expect(after.clips).toBe(clips);
    expect(codeOf(() => applyEdit(cut, { ...edit, recording: take('longer', 100_001) }))).toBe('length-other');
  });

  test('a track is named, moved in time with its loop, and removed; the last one stays', () => {
    const two = applyEdit(fresh(), { type: 'add-track', newId: 'bed', recording: take('r2') });
    const named = applyEdit(two, { type: 'set-track', trackId: 'bed', name: '  The mill ', role: 'bed' });
    expect(named.tracks[1]).toMatchObject({ name: 'The mill', role: 'bed' });
    const looped = applyEdit(named, { type: 'set-loop', trackId: 'bed', span: span(100, 200) });
    const moved = applyEdit(looped, { type: 'shift-track', trackId: 'bed', byFrames: 4800 });
    expect(moved.tracks[1]).toMatchObject({ clips: [{ startFrame: 4800 }], loop: span(4900, 5000) });
    expect(applyEdit(moved, { type: 'shift-track', trackId: 'bed', byFrames: -1e9 }).tracks[1]!.clips[0]!.startFrame).toBe(0);
    expect(applyEdit(moved, { type: 'remove-track', trackId: 'bed' }).tracks).toHaveLength(1);
    expect(codeOf(() => applyEdit(fresh(), { type: 'remove-track', ...of }))).toBe('tracks-one');
  });

  test('an edge is not drawn beyond its own recording, and what is missing is looked for in it alone', () => {
    const { reel, clips } = trackOf(added);
    const second = clips[1]!;
    const trimmed = applyEdit(added, { type: 'trim-clip', ...of, clipId: second.id, edge: 'start', toFrame: second.startFrame + 2000 });
    const back = applyEdit(trimmed, { type: 'trim-clip', ...of, clipId: second.id, edge: 'start', toFrame: 0 });
    expect(trackOf(back).clips[1]!.source.startFrame).toBe(reel[1]!.startFrame);
    const at = takenFinder(trackOf(trimmed).clips, reel);
    expect(at(reel[1]!.startFrame + 1000)?.id).toBe(second.id);
    expect(at(LENGTH + 1000)).toBeNull();
    const given = trackOf(applyEdit(trimmed, { type: 'give-back', ...of, clipId: second.id, side: 'before' }));
    expect(given.clips[1]!.source.startFrame).toBe(reel[1]!.startFrame);
  });

  test('a passage is of one recording; all tracks that hear it take it at their own place', () => {
    const { reel } = trackOf(added);
    const noise = (spans: readonly { startFrame: number; endFrame: number }[]): Edit => ({
      type: 'set-noise',
      ...of,
      noise: { kind: 'passages', spans },
    });
    expect(codeOf(() => applyEdit(added, noise([span(LENGTH - 10, reel[1]!.startFrame + 10)])))).toBe('span-outside');
    const guest = applyEdit(added, { type: 'add-track', newId: 'g', recording: take('r2') });
    const passage = span(reel[1]!.startFrame + 100, reel[1]!.startFrame + 900);
    const profiled = applyEdit(guest, { type: 'profile-tracks', span: passage, fromTrackId: 'track-1' });
    expect(profiled.tracks.map(({ noise: known }) => known)).toEqual([
      { kind: 'passages', spans: [passage] },
      { kind: 'passages', spans: [span(100, 900)] },
    ]);
  });
});

test('whatever is cut, moved and pasted of several recordings: clips never overlap, lie in one recording each, and are read back as stored', () => {
  const start = createDocument([take('a', 90_000), take('b', 60_000), take('c', 30_000)], 'sequence');
  const action = fc.record({
    kind: fc.constantFrom('cut', 'split', 'trim', 'back'),
    at: fc.nat(200_000),
    length: fc.integer({ min: 100, max: 60_000 }),
  });
  fc.assert(
    fc.property(fc.array(action, { maxLength: 12 }), (actions) => {
      let document = start;
      for (const { kind, at, length } of actions) {
        const { clips } = document.tracks[0]!;
        const clipId = clips[at % clips.length]!.id;
        const edit: Edit =
          kind === 'cut'
            ? { type: 'cut-spans', ...of, spans: [span(at, at + length)], close: at % 2 === 0 }
            : kind === 'split'
              ? { type: 'split-clips', ...of, frames: [at] }
              : kind === 'trim'
                ? { type: 'trim-clip', ...of, clipId, edge: at % 2 === 0 ? 'start' : 'end', toFrame: at + length }
                : { type: 'give-back', ...of, clipId, side: 'before' };
        if (codeOf(() => (document = applyEdit(document, edit))) === 'nothing thrown') expect(stored(document)).toEqual(document);
      }
      const { reel, clips } = document.tracks[0]!;
      expect(clips.every(({ source }) => liesInPart(reel, source))).toBe(true);
    }),
    { numRuns: 120 },
  );
});
