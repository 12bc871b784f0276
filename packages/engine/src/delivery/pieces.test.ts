import { createDocument } from '../document/create.js';
import { applyEdit, type Edit } from '../document/edits.js';
import { clipPieces, originalPieces } from './pieces.js';

const RATE_HZ = 48_000;
const recording = (id: string, seconds: number, channels = 1) => ({
  id,
  name: id,
  lengthFrames: RATE_HZ * seconds,
  sampleRateHz: RATE_HZ,
  channels,
});
const of = { trackId: 'track-1' };
const span = (from: number, to: number) => ({ startFrame: from * RATE_HZ, endFrame: to * RATE_HZ });
const document = (
  [
    { type: 'cut-spans', ...of, spans: [span(4, 6)], close: true },
    { type: 'fill-spans', ...of, spans: [{ ...span(6, 7), sound: { kind: 'silence' } }] },
    { type: 'set-track', ...of, gainDb: -6, pan: 0.5 },
  ] as readonly Edit[]
).reduce(applyEdit, createDocument([recording('a', 10), recording('b', 5)]));

test('a piece for every clip that sounds, with handles as far as its recording goes, without level and place', () => {
  const pieces = clipPieces(document, RATE_HZ);
  expect(pieces.map(({ recordingId, startFrame, frames }) => [recordingId, startFrame / RATE_HZ, frames / RATE_HZ])).toEqual([
    ['a', 0, 5],
    ['a', 5, 4],
    ['a', 8, 2],
    ['b', 0, 5],
  ]);
  for (const { document: bare } of pieces)
    expect(bare.tracks).toMatchObject([{ gainDb: 0, pan: 0, clips: [{ startFrame: 0, gainDb: 0 }] }]);
});

test('every recording as a whole, nothing cut; what several tracks hear is told instead', () => {
  const { pieces, shared } = originalPieces(document);
  expect(pieces.map(({ recordingId, frames }) => [recordingId, frames / RATE_HZ])).toEqual([
    ['a', 10],
    ['b', 5],
  ]);
  expect(shared).toEqual([]);
  const split = applyEdit(createDocument([recording('s', 4, 2)]), { type: 'split-tracks', ...of, channels: 2 });
  expect(originalPieces(split)).toEqual({ pieces: [], shared: ['s'] });
});
