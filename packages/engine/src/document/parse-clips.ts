import { parseChain } from '@euphonos/dsp';
import {
  CLIP_GAIN_DB,
  clipEnd,
  fadeCurves,
  LONGEST_FADE_SECONDS,
  MOST_CLIPS,
  MOST_POINTS,
  type Clip,
  type ClipSound,
  type Fade,
  type GainPoint,
} from './clip.js';
import { fail, frame, list, number, object, span, text } from './json.js';
import { liesInPart, type Reel } from './reel.js';

/** No session runs faster than this. */
const HIGHEST_RATE_HZ = 192_000;

/** Clips of a track: in the order of time, none over another, all within the recording. */
export function parseClips(value: unknown, where: string, reel: Reel): Clip[] {
  const clips = list(value, where).map((item, i) => clip(item, `${where}[${i}]`, reel));
  if (clips.length === 0) fail(where, 'must hold a clip at least');
  if (clips.length > MOST_CLIPS) fail(where, `must be ${MOST_CLIPS} or fewer`);
  if (new Set(clips.map(({ id }) => id)).size < clips.length) fail(where, 'must have ids of their own');
  const over = clips.findIndex((item, i) => i > 0 && item.startFrame < clipEnd(clips[i - 1]!));
  return over < 0 ? clips : fail(`${where}[${over}]`, 'must not begin before the one before it ends');
}

function clip(value: unknown, where: string, reel: Reel): Clip {
  const json = object(value, where);
  const source = span(json['source'], `${where}.source`);
  if (!liesInPart(reel, source)) fail(`${where}.source`, 'must lie in the recording and not be empty');
  return {
    id: text(json['id'], `${where}.id`),
    startFrame: frame(json['startFrame'], `${where}.startFrame`),
    source,
    sound: sound(json['sound'], `${where}.sound`),
    gainDb: number(json['gainDb'], `${where}.gainDb`, CLIP_GAIN_DB),
    line: line(json['line'], `${where}.line`),
    fadeIn: fade(json['fadeIn'], `${where}.fadeIn`),
    fadeOut: fade(json['fadeOut'], `${where}.fadeOut`),
    chain: json['chain'] === null || json['chain'] === undefined ? null : parseChain(json['chain'], true),
  };
}

function sound(value: unknown, where: string): ClipSound {
  const json = object(value, where);
  if (json['kind'] === 'recording' || json['kind'] === 'silence') return { kind: json['kind'] };
  return json['kind'] === 'room-tone'
    ? { kind: 'room-tone', gainDb: number(json['gainDb'], `${where}.gainDb`, CLIP_GAIN_DB) }
    : fail(`${where}.kind`, 'must be "recording", "silence" or "room-tone"');
}

function line(value: unknown, where: string): GainPoint[] {
  const points = list(value, where).map((item, i) => {
    const json = object(item, `${where}[${i}]`);
    return { frame: frame(json['frame'], `${where}[${i}].frame`), gainDb: number(json['gainDb'], `${where}[${i}].gainDb`, CLIP_GAIN_DB) };
  });
  if (points.length > MOST_POINTS) fail(where, `must have ${MOST_POINTS} points or fewer`);
  return points.every((point, i) => i === 0 || point.frame > points[i - 1]!.frame)
    ? points
    : fail(where, 'must have points in their order');
}

function fade(value: unknown, where: string): Fade {
  const json = object(value, where);
  const curve = fadeCurves.find((name) => name === json['curve']);
  const frames = frame(json['frames'], `${where}.frames`);
  if (frames > LONGEST_FADE_SECONDS * HIGHEST_RATE_HZ) fail(`${where}.frames`, `must be ${LONGEST_FADE_SECONDS} s or less`);
  return { frames, curve: curve ?? fail(`${where}.curve`, `must be one of ${fadeCurves.join(', ')}`) };
}
