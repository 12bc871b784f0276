import { chainKeepingTimes, portableChain, type ChainSpec } from '@euphonos/dsp';
import { requireClip } from './clip-edits.js';
import { WHOLE, type SessionDocument, type Track } from './document.js';
import { EngineError } from '../errors.js';

/** Chains as a whole: taken onto tracks and clips, linked and let go. */
export type ChainsEdit =
  /**
   * A chain in the place of those of some tracks, of clips of one track, or of the whole ('whole'). With a `link` the tracks have one chain
   * from now on. Times that were named in the chains before (breaths that are left alone, spots) stay; the chain's own are not taken.
   */
  | {
      readonly type: 'take-chain';
      readonly name: string;
      readonly chain: ChainSpec;
      readonly trackIds: readonly string[];
      readonly clipIds?: readonly string[];
      readonly link?: string;
    }
  /** These tracks have chains of their own again, as they are now. */
  | { readonly type: 'unlink-chains'; readonly trackIds: readonly string[] };

const kinds: ReadonlySet<string> = new Set<ChainsEdit['type']>(['take-chain', 'unlink-chains']);
export const isChainsEdit = (edit: { readonly type: string }): edit is ChainsEdit => kinds.has(edit.type);

/** Pure: the document after the edit. @throws {EngineError} */
export function editChains(document: SessionDocument, edit: ChainsEdit): SessionDocument {
  const missing = edit.trackIds.find((id) => id !== WHOLE && !document.tracks.some((track) => track.id === id));
  if (missing !== undefined) throw new EngineError('track-unknown', `This session has no track "${missing}".`, { trackId: missing });
  const named = new Set(edit.trackIds);
  const each = (change: (track: Track) => Track): SessionDocument => ({
    ...document,
    tracks: tidyLinks(document.tracks.map((track) => (named.has(track.id) ? change(track) : track))),
  });
  if (edit.type === 'unlink-chains') return each((track) => ({ ...track, chainLink: null }));
  const { chain, clipIds, link = null } = edit;
  if (clipIds) return each((track) => onClips(track, clipIds, portableChain(chain)));
  const taken = each((track) => ({ ...track, chain: chainKeepingTimes(chain, track.chain), chainLink: link }));
  return named.has(WHOLE) ? { ...taken, chain: portableChain(chain) } : taken;
}

function onClips(track: Track, clipIds: readonly string[], chain: ChainSpec): Track {
  for (const id of clipIds) requireClip(track, id);
  const wanted = new Set(clipIds);
  const own = chain.treatments.length === 0 ? null : chain;
  return { ...track, clips: track.clips.map((clip) => (wanted.has(clip.id) ? { ...clip, chain: own } : clip)) };
}

/** A link that only one track is left with links nothing. */
function tidyLinks(tracks: readonly Track[]): Track[] {
  return tracks.map((track) =>
    track.chainLink !== null && tracks.filter(({ chainLink }) => chainLink === track.chainLink).length < 2
      ? { ...track, chainLink: null }
      : track,
  );
}

/** After an edit of one track's chain: those that are linked with it have the same, each with its own times. */
export function withLinked(document: SessionDocument, before: Track, after: Track): SessionDocument {
  const linked = after.chainLink !== null && after.chain !== before.chain;
  return {
    ...document,
    tracks: document.tracks.map((track) => {
      if (track === before) return after;
      if (!linked || track.chainLink !== after.chainLink) return track;
      return { ...track, chain: chainKeepingTimes(after.chain, track.chain) };
    }),
  };
}

/** The tracks without one that is removed: links that are left alone are let go. */
export const withoutTrack = (tracks: readonly Track[], gone: Track): Track[] => tidyLinks(tracks.filter((track) => track !== gone));

/** An edit of whole chains in a few words; `names` are those of the tracks. */
export function describeChainsEdit(edit: ChainsEdit, names: readonly string[]): string {
  const where = names.length === 1 ? names[0]! : edit.trackIds.includes(WHOLE) ? 'the whole' : `${names.length} tracks`;
  if (edit.type === 'unlink-chains') return `A chain of its own for ${where}`;
  if (edit.clipIds) return `Chain ${edit.name} on ${edit.clipIds.length === 1 ? 'a clip' : `${edit.clipIds.length} clips`}`;
  return edit.link === undefined ? `Chain ${edit.name} on ${where}` : `Link the chains of ${where}`;
}
