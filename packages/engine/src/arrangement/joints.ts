import { clipEnd, clipFrames, type Clip, type FadeCurve } from '../document/clip.js';

/** Every edge that is not faded by hand is faded over this long, so that nothing clicks. */
export const EDGE_SECONDS = 0.005;

const edgeFrames = (sampleRateHz: number): number => Math.round(EDGE_SECONDS * sampleRateHz);

/** Share of what rises, at 0 … 1 of a fade; what falls has that of the rest of the way. */
export function fadeGain(curve: FadeCurve, place: number): number {
  const x = Math.max(0, Math.min(1, place));
  if (curve === 'linear') return x;
  return curve === 's' ? 0.5 - 0.5 * Math.cos(Math.PI * x) : Math.sin((Math.PI / 2) * x);
}

export const touch = (a: Clip, b: Clip): boolean => clipEnd(a) === b.startFrame;

const chainKeys = new WeakMap<object, string>();
/** A chain in a word; worked out once for each. */
function chainKey({ chain }: Clip): string {
  if (!chain) return '';
  const key = chainKeys.get(chain) ?? JSON.stringify(chain.treatments);
  chainKeys.set(chain, key);
  return key;
}

const toneOf = ({ sound }: Clip): number | null => (sound.kind === 'room-tone' ? sound.gainDb : null);

/** Whether what comes in is the same stream on both sides of a joint: there is nothing to fade. */
function sameStream(a: Clip, b: Clip): boolean {
  return a.source.endFrame === b.source.startFrame && toneOf(a) === toneOf(b) && (a.chain === b.chain || chainKey(a) === chainKey(b));
}

/** How an edge of a clip sounds before the chain: untouched, faded by itself, or across its neighbour. */
export interface Edge {
  readonly kind: 'none' | 'fade' | 'cross';
  /** Length of the fade; of a crossfade half lies on either side of the joint, the larger half after it. */
  readonly frames: number;
  readonly curve: FadeCurve;
}

const NONE: Edge = { kind: 'none', frames: 0, curve: 'linear' };

/** The crossfade where two clips touch: as long as either of them wishes, but not past the middle of the shorter one. */
export function crossFrames(a: Clip, b: Clip, sampleRateHz: number): number {
  return Math.max(2, Math.min(Math.max(edgeFrames(sampleRateHz), a.fadeOut.frames, b.fadeIn.frames), clipFrames(a), clipFrames(b)));
}

/** Frames of a crossfade before and after its joint. */
export const halves = (frames: number): readonly [before: number, after: number] => [frames >> 1, frames - (frames >> 1)];

/** The joint between two clips that touch; the same stream on both sides just goes on, whatever fade was wished: it would only meet itself. */
export function jointOf(a: Clip, b: Clip, sampleRateHz: number): Edge {
  if (sameStream(a, b)) return NONE;
  return {
    kind: 'cross',
    frames: crossFrames(a, b, sampleRateHz),
    curve: b.fadeIn.frames >= a.fadeOut.frames ? b.fadeIn.curve : a.fadeOut.curve,
  };
}

/** The fade that a free edge has by itself: none where the recording itself begins or ends there, at the very start or end of the track. */
export function freeEdge(clip: Clip, side: 'in' | 'out', last: boolean, sampleRateHz: number, recordingFrames: number): Edge {
  const own =
    clip.sound.kind !== 'room-tone' &&
    (side === 'in' ? clip.startFrame === 0 && clip.source.startFrame === 0 : last && clip.source.endFrame === recordingFrames);
  return own ? NONE : { kind: 'fade', frames: Math.min(edgeFrames(sampleRateHz), clipFrames(clip) >> 1), curve: 's' };
}

/** Both edges of a clip before the chain. */
export function edgesOf(
  clips: readonly Clip[],
  i: number,
  sampleRateHz: number,
  recordingFrames: number,
): readonly [left: Edge, right: Edge] {
  const clip = clips[i]!;
  const [before, after] = [clips[i - 1], clips[i + 1]];
  return [
    before && touch(before, clip) ? jointOf(before, clip, sampleRateHz) : freeEdge(clip, 'in', false, sampleRateHz, recordingFrames),
    after && touch(clip, after) ? jointOf(clip, after, sampleRateHz) : freeEdge(clip, 'out', !after, sampleRateHz, recordingFrames),
  ];
}

/** Length of the fade at a free edge as it is heard: by hand, or by itself. */
export function freeFade(clip: Clip, side: 'in' | 'out', automatic: Edge): Pick<Edge, 'frames' | 'curve'> {
  const wished = side === 'in' ? clip.fadeIn : clip.fadeOut;
  return wished.frames > automatic.frames ? { frames: Math.min(wished.frames, clipFrames(clip)), curve: wished.curve } : automatic;
}

/**
 * Names what goes into the chain: equal for clips that sound the same before it. A split that changes nothing, a gain
 * and a fade at a free edge change nothing here.
 */
export function soundKey(clips: readonly Clip[]): string {
  let key = '';
  for (const [i, clip] of clips.entries()) {
    const before = clips[i - 1];
    const joined = before !== undefined && touch(before, clip);
    if (joined && sameStream(before, clip)) continue;
    const fade = joined ? before.fadeOut.frames + clip.fadeIn.frames : 0;
    key += `${joined ? 'x' : '|'}${fade > 0 ? `${before!.fadeOut.frames}${before!.fadeOut.curve}${clip.fadeIn.frames}${clip.fadeIn.curve}/` : ''}${clip.startFrame}:${clip.source.startFrame}${clip.sound.kind === 'room-tone' ? `t${clip.sound.gainDb}` : ''}${chainKey(clip)}`;
    // Where a gap follows, its beginning counts too.
    if (before && !joined) key += `>${clipEnd(before)}`;
  }
  const last = clips[clips.length - 1];
  return `${key}>${last ? clipEnd(last) : 0}`;
}
