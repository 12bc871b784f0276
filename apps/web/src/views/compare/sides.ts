import { treatmentOf, type ChainSpec } from '@euphonos/dsp';
import type { SessionDocument, Track, Version } from '@euphonos/engine';

/** Something that can be heard: a name, and what is rendered for it. */
export interface Side {
  readonly id: string;
  readonly name: string;
  readonly which: 'source' | 'result';
  readonly document: SessionDocument;
}

const NO_CHAIN: ChainSpec = { treatments: [] };

/** A chain without one of its treatments. */
const without = (chain: ChainSpec, id: string): ChainSpec => ({
  treatments: chain.treatments.map((one) => (one.id === id ? { ...one, bypassed: true } : one)),
});

const sameReel = (a: Track, b: Track): boolean => JSON.stringify(a.reel) === JSON.stringify(b.reel);

/** The tracks that a version knew, as they were in it; of others what they are now. */
function inVersion(document: SessionDocument, { tracks, chain, wholeNoise }: Version): SessionDocument {
  const known = document.tracks.map((track) => tracks.find((one) => one.id === track.id && sameReel(one, track)) ?? track);
  return { ...document, tracks: known, chain, wholeNoise };
}

/** One track by itself, heard whether it is muted or not. */
const alone = (document: SessionDocument, trackId: string): SessionDocument => ({
  ...document,
  tracks: document.tracks.filter(({ id }) => id === trackId).map((track) => ({ ...track, muted: false })),
  chain: NO_CHAIN,
});

/** What can be compared of a track, or of the mix (null): result, source, versions, and the result without one of its treatments. */
export function sidesOf(document: SessionDocument, trackId: string | null): Side[] {
  const scope = (one: SessionDocument): SessionDocument => (trackId === null ? one : alone(one, trackId));
  const chain = trackId === null ? document.chain : (document.tracks.find(({ id }) => id === trackId)?.chain ?? NO_CHAIN);
  const leftOut = (id: string): SessionDocument =>
    trackId === null
      ? { ...document, chain: without(document.chain, id) }
      : {
          ...document,
          tracks: document.tracks.map((track) => (track.id === trackId ? { ...track, chain: without(track.chain, id) } : track)),
        };
  return [
    { id: 'result', name: 'Result', which: 'result', document: scope(document) },
    { id: 'source', name: trackId === null ? 'As it was recorded' : 'Source', which: 'source', document: scope(document) },
    ...document.versions.map((version): Side => ({
      id: `version/${version.id}`,
      name: version.name,
      which: 'result',
      document: scope(inVersion(document, version)),
    })),
    ...chain.treatments
      .filter(({ bypassed }) => !bypassed)
      .map(({ id, kind }): Side => ({
        id: `without/${id}`,
        name: `Without ${treatmentOf(kind).title}`,
        which: 'result',
        document: scope(leftOut(id!)),
      })),
  ];
}
