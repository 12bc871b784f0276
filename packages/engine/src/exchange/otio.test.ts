import { createDocument } from '../document/create.js';
import type { SessionDocument } from '../document/document.js';
import { applyEdit, type Edit } from '../document/edits.js';
import { codeOf } from '../testing/documents.js';
import type { Linkable } from './otio-items.js';
import { timelineFromOtio } from './otio-read.js';
import { notInOtio, timelineAsOtio } from './otio-write.js';

const RATE_HZ = 48_000;
const at = (seconds: number): number => seconds * RATE_HZ;
const file = (id: string, name: string, seconds: number): Linkable => ({
  id,
  name,
  fileName: `${name} (ä).wav`,
  sha256: `sha-of-${name}`,
  lengthFrames: at(seconds),
  sampleRateHz: RATE_HZ,
  channels: 1,
});
const files = [file('r1', 'anna', 60), file('r2', 'bela', 40), file('r3', 'bed', 90)];
const media = files.map(({ id, fileName, sha256 }) => ({ recordingId: id, fileName, sha256 }));
const span = (from: number, to: number) => ({ startFrame: at(from), endFrame: at(to) });
const of = { trackId: 'track-1' };

/** Three people of whom one is cut, faded, filled, moved; marks; levels; a chain on the whole. */
const edited = (): SessionDocument =>
  (
    [
      { type: 'set-room-tone', ...of, span: span(50, 52) },
      { type: 'cut-spans', ...of, spans: [span(10, 12), span(30, 33)], close: true },
      { type: 'fill-spans', ...of, spans: [{ ...span(20, 21), sound: { kind: 'room-tone', gainDb: -2 } }] },
      { type: 'fill-spans', ...of, spans: [{ ...span(22, 23), sound: { kind: 'silence' } }] },
      { type: 'level-spans', ...of, spans: [span(40, 45)], byDb: 3 },
      { type: 'shift-track', trackId: 'track-2', byFrames: at(7.5) },
      { type: 'set-track', trackId: 'track-3', role: 'bed', gainDb: -8, pan: 0.25, name: 'Bed, lange' },
      { type: 'add-treatment', trackId: 'whole', kind: 'levelling', treatmentId: 'w1' },
      { type: 'add-mark', mark: { id: 'm1', name: 'Scene, 1', startFrame: at(3), endFrame: at(9), note: 'to be\nshortened' } },
      { type: 'add-mark', mark: { id: 'm2', name: 'Cough', startFrame: at(5), endFrame: null, note: '' } },
    ] as readonly Edit[]
  ).reduce(applyEdit, createDocument(files));

const through = (json: unknown): unknown => JSON.parse(JSON.stringify(json)) as unknown;
const taken = (document: SessionDocument, parts: object): SessionDocument =>
  applyEdit(document, { type: 'take-timeline', name: 'x', ...parts } as Edit);

test('what is written comes back equal', () => {
  const document = edited();
  const { parts, notes, missing } = timelineFromOtio(through(timelineAsOtio(document, 'Tour', media)), document, files);
  expect(taken(document, parts)).toEqual({ ...document, tracks: document.tracks.map((track) => ({ ...track, loop: null })) });
  expect([notes, missing]).toEqual([[], []]);
});

test('on another installation, where recordings have other ids, chains and reels come along', () => {
  const document = edited();
  const there = files.map((one, i) => ({ ...one, id: `there-${i}`, fileName: `copy ${i}.wav` }));
  const { parts } = timelineFromOtio(through(timelineAsOtio(document, 'Tour', media)), createDocument(there), there);
  const renamed = JSON.parse(
    JSON.stringify(document).replaceAll(/"r([123])"/g, (_, n: string) => `"there-${Number(n) - 1}"`),
  ) as SessionDocument;
  expect(parts.tracks).toEqual(renamed.tracks.map((track) => ({ ...track, loop: null })));
  expect([parts.chain, parts.target]).toEqual([document.chain, document.target]);
});

/** As a program that keeps files and times alone hands it over: no metadata, seconds in frames of a picture, files by their paths. */
function stripped(json: unknown): unknown {
  const dropped = JSON.parse(JSON.stringify(json, (key, value: unknown) => (key === 'metadata' ? {} : value))) as {
    tracks: { children: { name: string; children: Record<string, unknown>[] }[] };
  };
  for (const track of dropped.tracks.children)
    for (const child of track.children) {
      const { media_references: many } = child as { media_references?: { DEFAULT_MEDIA: { target_url: string } } };
      if (many) many.DEFAULT_MEDIA.target_url = `file:///volumes/a%20b/${many.DEFAULT_MEDIA.target_url}`;
    }
  return dropped;
}

describe('what comes back from an editor', () => {
  const document = edited();
  const back = stripped(timelineAsOtio(document, 'Tour', media)) as ReturnType<typeof JSON.parse>;

  test('without any metadata clips are known by their content: chain, gain, tone and fades of before', () => {
    const { parts, missing } = timelineFromOtio(back, document, files);
    expect(missing).toEqual([]);
    parts.tracks.forEach((track, i) => {
      const before = document.tracks[i]!;
      expect(track.clips.map(({ startFrame, source, gainDb, chain }) => ({ startFrame, source, gainDb, chain }))).toEqual(
        before.clips.map(({ startFrame, source, gainDb, chain }) => ({ startFrame, source, gainDb, chain })),
      );
      expect([track.id, track.chain, track.gainDb, track.role]).toEqual([before.id, before.chain, before.gainDb, before.role]);
    });
    expect(parts.tracks[0]!.clips.map(({ sound }) => sound.kind)).toEqual(document.tracks[0]!.clips.map(({ sound }) => sound.kind));
  });

  test('a clip that was split and moved there keeps what it was; new edges have no fades of the old ones; times of 25 a second', () => {
    const moved = structuredClone(back) as { tracks: { children: { children: object[] }[] } };
    const rational = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: 25, value });
    const piece = (from: number, frames: number) => ({
      OTIO_SCHEMA: 'Clip.1',
      name: 'piece',
      source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: rational(from), duration: rational(frames) },
      media_reference: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'x/anna%20(a%CC%88).WAV'.replace('a%CC%88', '%C3%A4') },
    });
    const gap = { OTIO_SCHEMA: 'Gap.1', source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: rational(0), duration: rational(50) } };
    moved.tracks.children[0]!.children = [piece(1125, 50), gap, piece(1000, 100), { OTIO_SCHEMA: 'Stack.1', name: 'odd' }];
    const { parts, notes } = timelineFromOtio(moved, document, files);
    const [track] = parts.tracks;
    // Seconds 45–47 and 40–44 of the recording: a level of +3 dB lies on what was 40–45 of the session before the cuts were closed.
    expect(track!.clips.map(({ startFrame, source }) => [startFrame, source.startFrame, source.endFrame])).toEqual([
      [0, at(45), at(47)],
      [at(4), at(40), at(44)],
    ]);
    expect(new Set(track!.clips.map(({ id }) => id)).size).toBe(2);
    expect(track!.chain).toEqual(document.tracks[0]!.chain);
    expect(notes).toContain('"odd" is a Stack within a track and was left out.');
  });

  test('files that are not here are named; tracks of pictures are left out; what reaches beyond its recording is cut', () => {
    const odd = structuredClone(back) as { tracks: { children: unknown[] } };
    const range = (start: number, length: number) => ({
      start_time: { rate: 1, value: start },
      duration: { rate: 1, value: length },
    });
    const clip = (url: string, start: number, length: number, available = 0) => ({
      OTIO_SCHEMA: 'Clip.2',
      name: url,
      source_range: range(start, length),
      active_media_reference_key: 'high',
      media_references: { high: { OTIO_SCHEMA: 'ExternalReference.1', target_url: url, available_range: range(available, 100) } },
    });
    odd.tracks.children = [
      { OTIO_SCHEMA: 'Track.1', kind: 'Video', name: 'V1', children: [clip('film.mov', 0, 9)] },
      // Times that count from ten in the morning.
      {
        OTIO_SCHEMA: 'Track.1',
        kind: 'Audio',
        name: 'A1',
        children: [clip('bela (ä).wav', 36_035, 10, 36_000), clip('lost.wav', 0, 4), clip('bela (ä).wav', 2, 3)],
      },
    ];
    const { parts, notes, missing } = timelineFromOtio(odd, document, files);
    expect(missing).toEqual(['lost.wav']);
    expect(parts.tracks).toHaveLength(1);
    expect(parts.tracks[0]!.clips.map(({ startFrame, source }) => [startFrame, source.startFrame, source.endFrame])).toEqual([
      [0, at(35), at(40)],
      [at(14), at(2), at(5)],
    ]);
    expect(notes).toEqual(
      expect.arrayContaining([
        '"V1" is of pictures and was left out.',
        '"bela (ä).wav" reaches beyond its recording at 0.00 s and is shorter.',
        '"anna" is not in the timeline and goes.',
      ]),
    );
  });
});

test.each([
  ['no object', [], 'timeline-file'],
  ['another kind', { OTIO_SCHEMA: 'SerializableCollection.1' }, 'timeline-file'],
  ['no tracks', { OTIO_SCHEMA: 'Timeline.1', tracks: 'none' }, 'timeline-file'],
  [
    'nothing linked',
    {
      OTIO_SCHEMA: 'Timeline.1',
      tracks: { children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Audio', children: [{ OTIO_SCHEMA: 'Clip.2', name: 'x' }] }] },
    },
    'timeline-file',
  ],
])('%s is refused, and nothing is changed', (_, json, code) => {
  expect(codeOf(() => timelineFromOtio(json, edited(), files))).toBe(code);
});

test('what is nested without end is refused', () => {
  let tracks: object = { OTIO_SCHEMA: 'Stack.1', children: [] };
  for (let i = 0; i < 40; i++) tracks = { OTIO_SCHEMA: 'Stack.1', children: [tracks] };
  expect(codeOf(() => timelineFromOtio({ OTIO_SCHEMA: 'Timeline.1', tracks }, edited(), files))).toBe('timeline-file');
});

test('what other programs will not hear is listed', () => {
  expect(notInOtio(edited())).toEqual([
    'The chains of 2 tracks: the clips are of the recordings as they came.',
    'The chain on the whole.',
    'Room tone in the place of a clip.',
    'Level and place of a track.',
  ]);
  expect(notInOtio({ tracks: [], chain: { treatments: [] } })).toEqual([]);
});
