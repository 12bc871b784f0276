import { clipEnd, endOf, type SessionDocument, type Span, type Track } from '@euphonos/engine';
import { formatTime } from '../components/figures.js';

/** What is looked at: the mix, or some of it. */
export interface Scope {
  /** What of the session sounds: all of it as it is rendered, or the chosen tracks alone, before the chain on the whole. */
  readonly document: SessionDocument;
  /** The stretch that is shown. */
  readonly span: Span;
  /** "the mix", a track's name … */
  readonly words: string;
  /** The same for the same tracks. */
  readonly key: string;
}

/** @param chosen lines of the table: a track's id, a slash, and its clip's id or nothing */
export function scopeOf(document: SessionDocument, chosen: ReadonlySet<string>): Scope {
  const tracks = document.tracks.filter(({ id }) => [...chosen].some((key) => key.startsWith(`${id}/`)));
  const all = { startFrame: 0, endFrame: Math.max(...document.tracks.map(({ clips }) => endOf(clips))) };
  if (tracks.length === 0) return { document, span: all, words: 'the mix', key: '' };
  const [first] = tracks as [Track];
  const clip = chosen.size === 1 ? first.clips.find(({ id }) => chosen.has(`${first.id}/${id}`)) : undefined;
  const heard = tracks.map((track) => ({ ...track, muted: false }));
  return {
    document: { ...document, tracks: heard, chain: { treatments: [] } },
    span: clip ? { startFrame: clip.startFrame, endFrame: clipEnd(clip) } : all,
    words: clip
      ? `${first.name} at ${formatTime(clip.startFrame / document.sampleRateHz, 1)}`
      : tracks.length === 1
        ? first.name
        : `${tracks.length} tracks together`,
    key: heard.map(({ id }) => id).join(' '),
  };
}

/** Most clips that are offered. */
const MOST_CLIPS = 60;
/** Of less there is no tone to speak of. */
const LEAST_SECONDS = 2;

/** Speech that another can be compared with, track by track, and clip by clip where there are several; `but` is left out. */
export function references(
  { tracks, sampleRateHz }: Pick<SessionDocument, 'tracks' | 'sampleRateHz'>,
  but: string,
): { readonly id: string; readonly name: string }[] {
  const clipsOf = ({ id, name, clips }: Track): { readonly id: string; readonly name: string }[] =>
    clips.length < 2
      ? []
      : clips.flatMap((clip) =>
          clipEnd(clip) - clip.startFrame < LEAST_SECONDS * sampleRateHz
            ? []
            : [{ id: `${id}/${clip.id}`, name: `${name} at ${formatTime(clip.startFrame / sampleRateHz, 1)}` }],
        );
  const speech = tracks.filter(({ role }) => role === 'speech');
  const all = [...speech.map(({ id, name }) => ({ id: `${id}/`, name })), ...speech.flatMap(clipsOf).slice(0, MOST_CLIPS)];
  return all.filter(({ id }) => id !== but);
}
