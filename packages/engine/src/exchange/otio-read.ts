import { clipFrames, NO_FADE, plainClip, RECORDING, type Clip } from '../document/clip.js';
import { newTrack } from '../document/create.js';
import { MOST_TRACKS, type Mark, type SessionDocument, type Track } from '../document/document.js';
import { parseDocument } from '../document/parse.js';
import { partAt, withPart, type Reel } from '../document/reel.js';
import { fileOf, Reader, refuse, type Item, type Linkable } from './otio-items.js';
import { childrenOf, isObject, nameOf, ownOf, rangeSeconds, schemaOf, type Otio } from './otio-json.js';

/** What of a session a timeline decides. */
export type TimelineParts = Pick<SessionDocument, 'tracks' | 'marks' | 'chain' | 'wholeNoise' | 'target' | 'tags'>;

export interface ReadTimeline {
  readonly parts: TimelineParts;
  /** What could not be taken as it stands, in words. */
  readonly notes: readonly string[];
  /** Names of files that no recording of the session is. */
  readonly missing: readonly string[];
}

/** The clip of the session that a clip which comes back was: the one of the same recording that it has most in common with. */
function formerClip({ recording, fromFrame, frames, own }: Item, base: Track | null): Clip | null {
  if (!base) return null;
  let [best, most] = [null as Clip | null, 0];
  for (const clip of base.clips) {
    const part = partAt(base.reel, clip.source.startFrame);
    if (part.recordingId !== recording.id) continue;
    const from = clip.source.startFrame - part.startFrame;
    const common = Math.min(fromFrame + frames, from + clipFrames(clip)) - Math.max(fromFrame, from);
    // Its own name counts most.
    const weight = common > 0 ? common + (clip.id === own['id'] ? Number.MAX_SAFE_INTEGER / 2 : 0) : 0;
    if (weight > most) [best, most] = [clip, weight];
  }
  return best;
}

/** What is done to a clip: as the file says, else as the clip was that it comes from. Fades stay where its edges are. */
function settled(item: Item, id: string, partStart: number, former: Clip | null): Clip {
  const source = { startFrame: partStart + item.fromFrame, endFrame: partStart + item.fromFrame + item.frames };
  const said = item.own as Partial<Clip>;
  const from: Partial<Clip> =
    said.sound !== undefined
      ? { ...said, line: Array.isArray(said.line) ? said.line.map((point) => ({ ...point, frame: point.frame + partStart })) : [] }
      : (former ?? {});
  const [sameStart, sameEnd] = [
    said.sound !== undefined && !former ? true : former?.source.startFrame === source.startFrame,
    said.sound !== undefined && !former ? true : former?.source.endFrame === source.endFrame,
  ];
  const cross = item.crossFrames > 0 ? { frames: item.crossFrames, curve: 'equal-power' as const } : NO_FADE;
  const fadeIn = sameStart ? (from.fadeIn ?? NO_FADE) : NO_FADE;
  return {
    ...plainClip(id, item.startFrame, source),
    sound: !item.enabled ? { kind: 'silence' } : from.sound?.kind === 'silence' ? RECORDING : (from.sound ?? RECORDING),
    gainDb: item.gainDb ?? from.gainDb ?? 0,
    line: (from.line ?? []).filter(({ frame }) => frame >= source.startFrame && frame <= source.endFrame),
    fadeIn: fadeIn.frames > 0 ? fadeIn : cross,
    fadeOut: sameEnd ? (from.fadeOut ?? NO_FADE) : NO_FADE,
    chain: from.chain ?? null,
  };
}

const holdsAll = (reel: Reel, items: readonly Item[]): number =>
  items.filter(({ recording }) => reel.some(({ recordingId }) => recordingId === recording.id)).length;

/** The reel of a track from elsewhere, with recordings of this session; null where it says none, or one of them is not here. */
function reelOf(own: Otio, links: ReadonlyMap<string, Linkable>): Reel | null {
  const parts = Array.isArray(own['reel']) ? (own['reel'] as readonly unknown[]) : [];
  const made = parts.flatMap((part) => {
    const recording = isObject(part) ? links.get(String(part['recordingId'])) : undefined;
    return recording && isObject(part) && part['frames'] === recording.lengthFrames
      ? [{ ...(part as unknown as Reel[number]), recordingId: recording.id }]
      : [];
  });
  return made.length > 0 && made.length === parts.length ? made : null;
}

/**
 * Reads an OpenTimelineIO timeline against the recordings of a session: clips go to the tracks they came from, with the chains that these
 * have now, also where another program has dropped everything but files and times. A timeline of a session from elsewhere brings its
 * chains along.
 * @throws {EngineError} `timeline-file` where it is none, or nothing of it could be linked; `document-shape`; {DspError} for a chain in it
 */
export function timelineFromOtio(json: unknown, document: SessionDocument, recordings: readonly Linkable[]): ReadTimeline {
  if (!isObject(json) || schemaOf(json) !== 'Timeline') return refuse('it does not begin with a Timeline.');
  const reader = new Reader(recordings, document.sampleRateHz);
  const stack = json['tracks'];
  const links = linksOf(json, reader);
  const used = new Set<Track>();
  // One that knows recordings, and none of these by its name here, is of a session elsewhere.
  const foreign =
    links.size > 0 && !document.tracks.some(({ reel }) => reel.some(({ recordingId }) => links.get(recordingId)?.id === recordingId));
  const tracks: Track[] = [];
  for (const given of reader.tracksOf(stack)) {
    const items = reader.itemsOf(given);
    if (items.length === 0) {
      reader.notes.add(`"${nameOf(given) || 'A track'}" has no clip of a recording of this session and was left out.`);
      continue;
    }
    const own = ownOf(given);
    const free = document.tracks.filter((track) => !used.has(track));
    const byContent = free.map((track) => [track, holdsAll(track.reel, items)] as const).sort((a, b) => b[1] - a[1])[0];
    const base =
      free.find(({ id, reel }) => id === own['id'] && holdsAll(reel, items) > 0) ?? (byContent && byContent[1] > 0 ? byContent[0] : null);
    if (base) used.add(base);
    tracks.push(trackOf(items, given, { base, own, foreign, reel: reelOf(own, links), taken: tracks }));
  }
  if (tracks.length === 0)
    refuse(
      reader.missing.size > 0
        ? `none of its files is a recording of this session (${[...reader.missing].slice(0, 5).join(', ')}). Bring them in first.`
        : 'there is no clip of sound in it.',
    );
  if (tracks.length > MOST_TRACKS) refuse(`it has ${tracks.length} tracks of sound; a session holds up to ${MOST_TRACKS}.`);
  const whole = foreign ? ownOf(json) : {};
  const read = parseDocument({
    ...document,
    ...pick(whole, ['chain', 'wholeNoise', 'target', 'tags']),
    tracks,
    marks: marksOf(stack, document),
  });
  const { marks, chain, wholeNoise, target, tags } = read;
  for (const track of document.tracks.filter((one) => !used.has(one) && !foreign))
    reader.notes.add(`"${track.name}" is not in the timeline and goes.`);
  return { parts: { tracks: read.tracks, marks, chain, wholeNoise, target, tags }, notes: [...reader.notes], missing: [...reader.missing] };
}

const pick = (from: Otio, keys: readonly string[]): Otio =>
  Object.fromEntries(keys.flatMap((key) => (from[key] === undefined ? [] : [[key, from[key]]])));

/** Recordings of this session by the ids that the file knows them under. */
function linksOf(json: Otio, reader: Reader): Map<string, Linkable> {
  const links = new Map<string, Linkable>();
  for (const track of reader.tracksOf(json['tracks']))
    for (const child of childrenOf(track)) {
      const many = isObject(child) ? child['media_references'] : undefined;
      for (const reference of isObject(many) ? Object.values(many) : []) {
        const own = ownOf(reference);
        const url = isObject(reference) && typeof reference['target_url'] === 'string' ? fileOf(reference['target_url']) : '';
        const found = typeof own['recordingId'] === 'string' && !links.has(own['recordingId']) ? reader.linked(own, url) : null;
        if (found) links.set(String(own['recordingId']), found);
      }
    }
  return links;
}

interface Around {
  readonly base: Track | null;
  readonly own: Otio;
  readonly foreign: boolean;
  readonly reel: Reel | null;
  readonly taken: readonly Track[];
}

function trackOf(items: readonly Item[], given: Otio, { base, own, foreign, reel: said, taken }: Around): Track {
  const first = items[0]!.recording;
  let reel: Reel = (foreign ? said : base?.reel) ?? base?.reel ?? said ?? withPart([], first);
  for (const { recording } of items) if (!reel.some(({ recordingId }) => recordingId === recording.id)) reel = withPart(reel, recording);
  const fresh = newTrack('', first);
  const like: Partial<Track> = foreign || !base ? (own as Partial<Track>) : {};
  let made = Math.max(base?.clipsMade ?? 0, Number(own['clipsMade']) || 0);
  const ids = new Set<string>();
  const clips = items.map((item): Clip => {
    const former = foreign ? null : formerClip(item, base);
    const wished = typeof item.own['id'] === 'string' ? item.own['id'] : former?.id;
    const id = wished !== undefined && !ids.has(wished) ? wished : `c${++made}`;
    ids.add(id);
    return settled(item, id, reel.find(({ recordingId }) => recordingId === item.recording.id)!.startFrame, former);
  });
  const id = base?.id ?? (typeof own['id'] === 'string' ? own['id'] : 'track');
  return {
    ...fresh,
    ...(base ?? {}),
    ...like,
    id: freeId(id, taken),
    name: nameOf(given).slice(0, 120) || base?.name || first.name,
    reel,
    loop: null,
    clips,
    clipsMade: Math.max(made, clips.length),
    muted: given['enabled'] === false,
  };
}

function freeId(wished: string, taken: readonly Track[]): string {
  let id = wished;
  for (let i = 2; taken.some((track) => track.id === id); i++) id = `${wished}-${i}`;
  return id;
}

/** Marks of the timeline; of one without any, those that the session has. */
function marksOf(stack: unknown, document: SessionDocument): readonly Mark[] {
  const given = isObject(stack) && Array.isArray(stack['markers']) ? (stack['markers'] as readonly unknown[]) : [];
  const marks = given.flatMap((marker, i): Mark[] => {
    const range = isObject(marker) ? rangeSeconds(marker['marked_range']) : null;
    if (!range || !isObject(marker)) return [];
    const own = ownOf(marker);
    const startFrame = Math.max(0, Math.round(range.start * document.sampleRateHz));
    const frames = Math.round(range.length * document.sampleRateHz);
    const comment = typeof marker['comment'] === 'string' ? marker['comment'] : '';
    return [
      {
        id: typeof own['id'] === 'string' ? own['id'] : `timeline-${i + 1}`,
        name: nameOf(marker).slice(0, 120),
        startFrame,
        endFrame: frames > 0 && own['place'] !== true ? startFrame + frames : null,
        note: comment.slice(0, 2000),
      },
    ];
  });
  const seen = new Set<string>();
  const own = marks.filter(({ id }) => !seen.has(id) && seen.add(id));
  return own.length > 0 ? own.sort((a, b) => a.startFrame - b.startFrame) : document.marks;
}
