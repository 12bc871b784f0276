import fc from 'fast-check';
import { defaultTreatment, parseChain } from '@euphonos/dsp';
import { endOf } from '../arrangement/places.js';
import { codeOf, LENGTH, of, trackOf } from '../testing/documents.js';
import { createDocument } from './create.js';
import { describeEdit } from './describe.js';
import { mixChannels, panGains, type SessionDocument } from './document.js';
import { applyEdit, requireTrack, type Edit } from './edits.js';
import { record, startHistory, undo } from './history.js';
import { parseDocument } from './parse.js';
import { partAt } from './reel.js';

const facts = (id: string, channels = 1, lengthFrames = LENGTH) => ({ id, name: id, lengthFrames, sampleRateHz: 48_000, channels });
const stored = (document: SessionDocument): SessionDocument => parseDocument(JSON.parse(JSON.stringify(document)));
const three = createDocument([facts('a'), facts('b'), facts('c', 2)], 'tracks', [0, 500_000, 0]);
const after = (document: SessionDocument, ...edits: Edit[]): SessionDocument => edits.reduce(applyEdit, document);
const other = { trackId: 'track-2' };

describe('pan', () => {
  test('a voice has the same power wherever it stands, and is as it was in the middle', () => {
    fc.assert(
      fc.property(fc.double({ min: -1, max: 1, noNaN: true }), (pan) => {
        const [left, right] = panGains(pan);
        expect(left ** 2 + right ** 2).toBeCloseTo(2, 10);
        if (Math.abs(pan) > 1e-6) expect(right > left).toBe(pan > 0);
      }),
    );
    expect(panGains(0)).toEqual([1, 1]);
    expect(panGains(-1)[1]).toBeCloseTo(0, 12);
  });

  test('tracks of one channel make one, unless one of them stands aside', () => {
    const [a, b, c] = three.tracks;
    expect(mixChannels([a!, b!])).toBe(1);
    expect(mixChannels([a!, c!])).toBe(2);
    const panned = after(three, { type: 'set-track', ...of, pan: -3 });
    expect(panned.tracks[0]!.pan).toBe(-1);
    expect(mixChannels(panned.tracks.slice(0, 2))).toBe(2);
    expect(describeEdit(panned, { type: 'set-track', ...of, pan: -0.3 })).toBe('a: 30 % left');
  });
});

describe('clips from track to track', () => {
  const cut = after(three, { type: 'split-clips', ...of, frames: [100_000, 200_000] });
  const [first, second] = trackOf(cut).clips;

  test('they keep their time and what is heard of them, and bring their recording along', () => {
    const moved = after(cut, { type: 'move-to-track', ...of, clipIds: [first!.id, second!.id], toTrackId: 'track-2' });
    const target = requireTrack(moved, 'track-2');
    expect(target.clips.map(({ startFrame }) => startFrame)).toEqual([0, 100_000, 500_000]);
    for (const { source } of target.clips.slice(0, 2)) expect(partAt(target.reel, source.startFrame).recordingId).toBe('a');
    const part = partAt(target.reel, target.clips[0]!.source.startFrame);
    expect(target.clips[1]!.source.startFrame - part.startFrame).toBe(100_000);
    expect(trackOf(moved).clips).toHaveLength(1);
    expect(stored(moved)).toEqual(moved);
    // Once more from the same recording: it lies on the reel already.
    const [rest] = trackOf(moved).clips;
    const all = after(moved, { type: 'move-to-track', ...of, clipIds: [rest!.id], toTrackId: 'track-2' });
    expect(requireTrack(all, 'track-2').reel).toHaveLength(2);
    expect(all.tracks.map(({ id }) => id)).toEqual(['track-2', 'track-3']);
  });

  test('onto a stereo track a mono recording sounds on both channels; a place that is taken is refused', () => {
    const shifted = after(cut, { type: 'shift-track', trackId: 'track-3', byFrames: 100_000 });
    const moved = after(shifted, { type: 'move-to-track', ...of, clipIds: [first!.id], toTrackId: 'track-3' });
    expect(requireTrack(moved, 'track-3').reel[1]!.channels).toEqual([0, 0]);
    expect(codeOf(() => applyEdit(shifted, { type: 'move-to-track', ...of, clipIds: [second!.id], toTrackId: 'track-3' }))).toBe(
      'place-taken',
    );
    expect(codeOf(() => applyEdit(cut, { type: 'move-to-track', ...of, clipIds: ['none'], toTrackId: 'track-2' }))).toBe('clip-unknown');
  });

  test('tracks are put in another order, each of them once', () => {
    const turned = after(three, { type: 'order-tracks', trackIds: ['track-3', 'track-1', 'track-2'] });
    expect(turned.tracks.map(({ name }) => name)).toEqual(['c', 'a', 'b']);
    expect(codeOf(() => applyEdit(three, { type: 'order-tracks', trackIds: ['track-3', 'track-3', 'track-1'] }))).toBe('document-shape');
  });
});

describe('chains as a whole', () => {
  const chain = parseChain({
    treatments: [
      { kind: 'high-pass', id: 'h', cutoffHz: 110 },
      { kind: 'gate', id: 'g' },
    ],
  });
  const take = { type: 'take-chain', name: 'Small room', chain } as const;

  test('a chain is taken onto many tracks at once, onto clips, and onto the whole', () => {
    const taken = after(three, { ...take, trackIds: ['track-1', 'track-3', 'whole'] });
    expect(taken.tracks.map(({ chain: { treatments } }) => treatments.length)).toEqual([2, 4, 2]);
    expect(taken.chain).toEqual(chain);
    const [clip] = trackOf(three).clips;
    const onClip = after(three, { ...take, trackIds: ['track-1'], clipIds: [clip!.id] });
    expect(trackOf(onClip).clips[0]!.chain).toEqual(chain);
    expect(trackOf(onClip).chain).toEqual(trackOf(three).chain);
    expect(describeEdit(taken, { ...take, trackIds: ['track-1', 'track-3'] })).toBe('Chain Small room on 2 tracks');
    expect(codeOf(() => applyEdit(three, { ...take, trackIds: ['nobody'] }))).toBe('track-unknown');
  });

  test('what changes in one linked chain changes in all of them, until they are let go', () => {
    const linked = after(three, { ...take, trackIds: ['track-1', 'track-2'], link: 'l1' });
    const changes: Edit[] = [
      { type: 'set-parameter', ...other, treatmentId: 'h', name: 'cutoffHz', value: 70 },
      { type: 'add-treatment', ...of, kind: 'tone', treatmentId: 'n' },
      { type: 'remove-treatment', ...other, treatmentId: 'g' },
      { type: 'take-suggestion', ...of, treatmentId: 's', title: 'x', settings: defaultTreatment('clicks') },
    ];
    const changed = after(linked, ...changes);
    expect(trackOf(changed).chain).toEqual(requireTrack(changed, 'track-2').chain);
    expect(trackOf(changed).chain.treatments.map(({ kind }) => kind)).toEqual(['clicks', 'high-pass', 'tone']);
    expect(requireTrack(changed, 'track-3').chain).toEqual(requireTrack(three, 'track-3').chain);
    expect(stored(changed)).toEqual(changed);
    const free = after(changed, { type: 'unlink-chains', trackIds: ['track-1'] });
    expect(free.tracks.map(({ chainLink }) => chainLink)).toEqual([null, null, null]);
    expect(after(linked, { type: 'remove-track', ...other }).tracks[0]!.chainLink).toBeNull();
  });

  test('spots of each track stay its own when chains are linked and changed', () => {
    const spot = { startSeconds: 1, endSeconds: 2, lowHz: 100, highHz: 900, reductionDb: 6 };
    const spotted = after(three, { type: 'add-spot', ...of, treatmentId: 'sp', afterId: 't3', spot });
    const linked = after(spotted, { ...take, trackIds: ['track-1', 'track-2'], link: 'l1' });
    const changed = after(linked, { type: 'set-parameter', ...other, treatmentId: 'h', name: 'cutoffHz', value: 70 });
    expect(trackOf(changed).chain.treatments.map(({ kind }) => kind)).toEqual(['spots', 'high-pass', 'gate']);
    expect(requireTrack(changed, 'track-2').chain.treatments.map(({ kind }) => kind)).toEqual(['high-pass', 'gate']);
  });
});

describe('marks', () => {
  const mark = (id: string, startFrame: number, endFrame: number | null = null) => ({ id, name: id, startFrame, endFrame, note: '' });
  const marked = after(three, { type: 'add-mark', mark: mark('late', 900) }, { type: 'add-mark', mark: mark('early', 10, 300) });

  test('they are kept in the order of time, renamed, moved, removed, and undone', () => {
    expect(marked.marks.map(({ id }) => id)).toEqual(['early', 'late']);
    const history = [
      { type: 'set-mark', id: 'early', set: { startFrame: 1000, endFrame: 2000 } },
      { type: 'set-mark', id: 'late', set: { name: ' breath ', note: 'too loud' } },
      { type: 'remove-mark', id: 'early' },
    ].reduce((all, edit) => record(all, edit as Edit), startHistory(marked));
    expect(history.present.marks).toEqual([{ ...mark('late', 900), name: 'breath', note: 'too loud' }]);
    expect(history.past.map(({ label }) => label)).toEqual(['Move mark early', 'Mark:  breath ', 'Remove mark early']);
    expect(undo(undo(undo(history))).present).toEqual(marked);
    expect(stored(marked)).toEqual(marked);
  });

  test('one that ends before it begins, or is gone, is refused', () => {
    expect(codeOf(() => applyEdit(marked, { type: 'add-mark', mark: mark('x', 10, 10) }))).toBe('span-outside');
    expect(codeOf(() => applyEdit(marked, { type: 'remove-mark', id: 'x' }))).toBe('mark-unknown');
    expect(codeOf(() => stored({ ...marked, marks: [...marked.marks].reverse() }))).toBe('document-shape');
  });
});

test('a bed is left as it is; who has treated it keeps the treatment', () => {
  const bed = after(three, { type: 'set-track', ...other, role: 'bed' });
  expect(requireTrack(bed, 'track-2').chain.treatments).toEqual([]);
  expect(after(bed, { type: 'set-track', ...other, role: 'speech' })).toEqual(three);
  // A database gives names back in another order.
  const turned = (value: object): object => Object.fromEntries(Object.entries(value).reverse());
  const [first, second, third] = three.tracks;
  const read = { ...second!, chain: { treatments: second!.chain.treatments.map((one) => turned(one) as typeof one) } };
  const bedRead = after({ ...three, tracks: [first!, read, third!] }, { type: 'set-track', ...other, role: 'bed' });
  expect(requireTrack(bedRead, 'track-2').chain.treatments).toEqual([]);
  const treated = after(
    three,
    { type: 'add-treatment', ...other, kind: 'tone', treatmentId: 'n' },
    { type: 'set-track', ...other, role: 'bed' },
  );
  expect(requireTrack(treated, 'track-2').chain.treatments).toHaveLength(5);
});

test('a document of the fourth schema stands in the middle, unlinked and without marks', () => {
  const { marks: _, ...rest } = three;
  const tracks = three.tracks.map(({ pan: _pan, chainLink: _link, ...track }) => track);
  expect(stored({ ...rest, schemaVersion: 4, tracks } as unknown as SessionDocument)).toEqual(three);
  expect(endOf(three.tracks[1]!.clips)).toBe(500_000 + LENGTH);
});
