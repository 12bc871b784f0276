import type { RecordingFacts } from '../document/reel.js';
import { EngineError } from '../errors.js';
import { childrenOf, isObject, nameOf, ownOf, rangeSeconds, schemaOf, secondsOf, type Otio } from './otio-json.js';

/** A recording that clips of a timeline may be stretches of. */
export interface Linkable extends RecordingFacts {
  readonly fileName: string;
  readonly sha256: string;
}

/** Deepest nesting and most objects that are looked at. */
const DEEPEST = 12;
const MOST_CHILDREN = 50_000;

export interface Item {
  readonly recording: Linkable;
  readonly startFrame: number;
  /** In frames of the recording. */
  readonly fromFrame: number;
  readonly frames: number;
  readonly own: Otio;
  readonly enabled: boolean;
  readonly gainDb: number | null;
  /** Frames of a crossfade before it. */
  readonly crossFrames: number;
}

export const refuse = (words: string): never => {
  throw new EngineError('timeline-file', `This is no timeline that can be read: ${words} Nothing was changed.`);
};

/** The last part of a URL or path, as a name. */
export function fileOf(url: string): string {
  const last = url.split(/[/\\]/).pop() ?? '';
  try {
    return decodeURIComponent(last);
  } catch {
    return last;
  }
}
const bare = (name: string): string => name.replace(/\.[A-Za-z0-9]{1,5}$/, '').toLowerCase();

/** Finds tracks, clips and files in a timeline; what cannot be taken is kept in words. */
export class Reader {
  readonly notes = new Set<string>();
  readonly missing = new Set<string>();
  #children = 0;

  constructor(
    private readonly recordings: readonly Linkable[],
    private readonly rateHz: number,
  ) {}

  /** Every track of sound below an object, outermost first. */
  tracksOf(value: unknown, depth = 0): Otio[] {
    if (depth > DEEPEST) return refuse(`it is nested deeper than ${DEEPEST} times.`);
    if (!isObject(value)) return [];
    if (schemaOf(value) === 'Track') {
      if (value['kind'] === 'Audio') return [value];
      this.notes.add(`"${nameOf(value) || 'A track'}" is of pictures and was left out.`);
      return [];
    }
    return childrenOf(value).flatMap((child) => this.tracksOf(child, depth + 1));
  }

  itemsOf(track: Otio): Item[] {
    const items: Item[] = [];
    let seconds = 0;
    let cross = 0;
    if (isObject(track['source_range'])) this.notes.add(`"${nameOf(track)}" is trimmed as a whole; that was not taken over.`);
    for (const child of childrenOf(track)) {
      if (++this.#children > MOST_CHILDREN) refuse(`it has more than ${MOST_CHILDREN} clips.`);
      const kind = schemaOf(child);
      if (kind === 'Transition') {
        const offsets = isObject(child) ? [child['in_offset'], child['out_offset']].map((offset) => secondsOf(offset) ?? 0) : [];
        cross = offsets.reduce((sum, offset) => sum + offset, 0);
        continue;
      }
      const at = seconds;
      seconds += this.#lengthOf(child);
      if (kind === 'Clip') {
        const item = this.#itemOf(child as Otio, at, seconds, cross);
        if (item) items.push(item);
      } else if (kind !== 'Gap') this.notes.add(`"${nameOf(child) || kind}" is a ${kind || 'thing'} within a track and was left out.`);
      cross = 0;
    }
    return items;
  }

  #lengthOf(child: unknown): number {
    if (!isObject(child)) return 0;
    const stated = rangeSeconds(child['source_range']) ?? rangeSeconds(this.#reference(child)['available_range']);
    return stated?.length ?? 0;
  }

  #reference(clip: Otio): Otio {
    const many = clip['media_references'];
    const key = clip['active_media_reference_key'];
    const one = isObject(many) ? many[typeof key === 'string' ? key : 'DEFAULT_MEDIA'] : clip['media_reference'];
    return isObject(one) ? one : {};
  }

  #itemOf(clip: Otio, fromSeconds: number, toSeconds: number, cross: number): Item | null {
    const reference = this.#reference(clip);
    const recording = this.linked(
      ownOf(reference),
      typeof reference['target_url'] === 'string' ? fileOf(reference['target_url']) : nameOf(clip),
    );
    const name = nameOf(clip) || (recording?.fileName ?? 'a clip');
    if (!recording) return null;
    const effects = Array.isArray(clip['effects']) ? (clip['effects'] as readonly unknown[]) : [];
    for (const effect of effects)
      if (/Warp|Freeze/.test(schemaOf(effect))) this.notes.add(`"${name}" plays at another speed there; here at its own.`);
    const gain = effects.find((effect) => isObject(effect) && effect['effect_name'] === 'AudioGain');
    const gainDb = isObject(gain) && isObject(gain['metadata']) ? Number(gain['metadata']['gain_db']) : NaN;
    const source = rangeSeconds(clip['source_range']);
    const media = rangeSeconds(reference['available_range']);
    // Media may count its time from a time of day.
    const from = source ? source.start - (media?.start ?? 0) : 0;
    const frame = (seconds: number): number => Math.round(seconds * this.rateHz);
    const startFrame = frame(fromSeconds);
    const [wishedFrom, wishedTo] = [frame(from), frame(from) + frame(toSeconds) - startFrame];
    const [fromFrame, toFrame] = [Math.max(0, wishedFrom), Math.min(recording.lengthFrames, wishedTo)];
    if (toFrame <= fromFrame) {
      this.notes.add(`"${name}" lies outside of its recording at ${fromSeconds.toFixed(2)} s and was left out.`);
      return null;
    }
    if (fromFrame !== wishedFrom || toFrame !== wishedTo)
      this.notes.add(`"${name}" reaches beyond its recording at ${fromSeconds.toFixed(2)} s and is shorter.`);
    return {
      recording,
      startFrame: startFrame + fromFrame - wishedFrom,
      fromFrame,
      frames: toFrame - fromFrame,
      own: ownOf(clip),
      enabled: clip['enabled'] !== false,
      gainDb: Number.isFinite(gainDb) ? Math.max(-60, Math.min(24, gainDb)) : null,
      crossFrames: frame(cross),
    };
  }

  /** The recording that a file is: by its content, else by its name, else by its name without the ending. */
  linked(own: Otio, fileName: string): Linkable | null {
    const found =
      (typeof own['sha256'] === 'string' && own['sha256'] !== ''
        ? (this.recordings.find(({ id, sha256 }) => sha256 === own['sha256'] && id === own['recordingId']) ??
          this.recordings.find(({ sha256 }) => sha256 === own['sha256']))
        : undefined) ??
      this.recordings.find((recording) => recording.fileName === fileName) ??
      this.recordings.find((recording) => bare(recording.fileName) === bare(fileName));
    if (!found) this.missing.add(fileName || 'a file without a name');
    return found ?? null;
  }
}
