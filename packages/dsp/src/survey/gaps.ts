import { quantile, runs } from './growing.js';
import type { BreathSpan, NoisePassage } from './findings.js';
import type { SpanSeconds } from '../span-seconds.js';
import { findPassages } from './passages.js';
import type { HeardChannel } from './talk.js';

/** A breath: this long, this far below the talk, broad and not an s, and words follow soon. */
const BREATH_SECONDS = [0.12, 1.1] as const;
const BREATH_BELOW_DB = 9;
const BREATH_SIBILANT_DB = 2;
const WORDS_FOLLOW_SECONDS = 0.55;
/** In the middle of talk: this far above the floor, and this much louder than where it begins. */
const SOFT_ABOVE_DB = 5;
const SWELL_DB = 4;
const CONSONANT_SECONDS = 0.09;
/** Voiced enough for the beginning of a word. */
const WORD_VOICED = 0.55;
/** What stands out of a gap this far, this long and clear of words is a sound of its own. */
const SOUND_ABOVE_DB = 10;
const SOUND_SECONDS = [0.03, 4] as const;
const CLEAR_OF_WORDS_SECONDS = 0.12;
const VOICED = 0.6;
/** Shorter than this words run on. */
const PAUSE_SECONDS = 0.2;
const MOST_PAUSES = 4000;

export interface Gaps {
  readonly breaths: readonly BreathSpan[];
  readonly sounds: readonly SpanSeconds[];
  readonly passages: readonly NoisePassage[];
  /** Where nobody talks, before the first word and after the last too. */
  readonly pauses: readonly SpanSeconds[];
}

/**
 * What lies between the words of these channels: breaths and other sounds of each, where nobody talks on the rest; where nobody
 * talks on any; and stretches of nothing but noise on all of them while `others` do not talk either.
 */
export function findGaps(own: readonly HeardChannel[], others: readonly HeardChannel[] = []): Gaps {
  const [first] = own;
  if (!first) return { breaths: [], sounds: [], passages: [], pauses: [] };
  const seconds = first.features.frameSeconds;
  const talking = anyTalk(own);
  const found = own.map((channel) => soundsBetween(channel));
  /** What one channel has while nobody talks on the others. */
  const alone = <S extends SpanSeconds>(spans: readonly S[], channel: HeardChannel): S[] => {
    const rest = anyTalk(own.filter((other) => other !== channel));
    return spans.filter(
      ({ startSeconds, endSeconds }) => !rest.subarray(Math.round(startSeconds / seconds), Math.round(endSeconds / seconds)).includes(1),
    );
  };
  const gather = <S extends SpanSeconds>(lists: readonly (readonly S[])[]): S[] =>
    lists
      .flatMap((spans, i) => alone(spans, own[i]!))
      .sort((a, b) => a.startSeconds - b.startSeconds)
      // The same breath on two microphones is one.
      .filter((span, i, all) => i === 0 || span.startSeconds >= all[i - 1]!.endSeconds);
  return {
    breaths: gather(found.map(({ breaths }) => breaths)),
    sounds: gather(found.map(({ sounds }) => sounds)),
    passages: findPassages(own, anySound(others)),
    pauses: findPauses(talking, seconds),
  };
}

/** Frames in which somebody talks on any of them. */
function anyTalk(channels: readonly HeardChannel[]): Uint8Array {
  const flags = new Uint8Array(Math.max(0, ...channels.map(({ talk }) => talk.isTalk.length)));
  for (const { talk } of channels) talk.isTalk.forEach((flag, i) => (flags[i]! |= flag));
  return flags;
}

/** Frames in which anything stands out of the floor of any of them. */
function anySound(channels: readonly HeardChannel[]): Uint8Array {
  const flags = new Uint8Array(Math.max(0, ...channels.map(({ talk }) => talk.isTalk.length)));
  for (const { talk } of channels) for (const { from, to } of talk.stretches) flags.fill(1, from, to);
  return flags;
}

/** Breaths and other sounds between the words of one channel. */
function soundsBetween({ features, talk }: HeardChannel): Pick<Gaps, 'breaths' | 'sounds'> {
  const seconds = features.frameSeconds;
  const body = features.body.values;
  const mid = features.mid.values;
  const sibilant = features.sibilant.values;
  const voicing = features.voicing.values;
  // Frame i is centred on the end of hop i; half a frame of its window lies on either side.
  const span = (from: number, to: number): SpanSeconds => ({
    startSeconds: Math.max(0, from * seconds - seconds / 2),
    endSeconds: to * seconds + seconds / 2,
  });
  const breaths: BreathSpan[] = [];
  const sounds: SpanSeconds[] = [];
  const level = (values: Float32Array, from: number, to: number): number => quantile(values.subarray(from, to), 0.5);
  const isBreath = (from: number, to: number, nextWord: number): boolean => {
    const long = (to - from) * seconds;
    return (
      long >= BREATH_SECONDS[0] &&
      long <= BREATH_SECONDS[1] &&
      (nextWord - to) * seconds <= WORDS_FOLLOW_SECONDS &&
      level(body, from, to) < talk.talkBodyDb - BREATH_BELOW_DB &&
      level(sibilant, from, to) - level(mid, from, to) < BREATH_SIBILANT_DB &&
      quantile(voicing.subarray(from, to), 0.6) < VOICED
    );
  };
  /** How far inside of the limits it lies: 0.5 at one of them, 1 well within all. */
  const breath = (from: number, to: number): BreathSpan => {
    const bodyDb = level(body, from, to);
    const margins = [
      (talk.talkBodyDb - BREATH_BELOW_DB - bodyDb) / 8,
      (VOICED - quantile(voicing.subarray(from, to), 0.6)) / 0.3,
      (BREATH_SIBILANT_DB - (level(sibilant, from, to) - level(mid, from, to))) / 6,
      ((to - from) * seconds - BREATH_SECONDS[0]) / 0.12,
    ].map((margin) => Math.max(0, Math.min(1, margin)));
    const certainty = 0.5 + 0.25 * (Math.min(...margins) + margins.reduce((sum, margin) => sum + margin, 0) / margins.length);
    return { ...span(from, to), certainty: Math.round(100 * certainty) / 100, dbfs: Math.round(10 * bodyDb) / 10 };
  };
  /** Where a stretch of talk is as soft as a breath, voiceless, and no s: pauses too short to part it may hold one. */
  const softRuns = (from: number, to: number): (readonly [number, number])[] => {
    const soft = (i: number): boolean =>
      body[i]! < talk.talkBodyDb - BREATH_BELOW_DB &&
      body[i]! > talk.floorDb[i]! + SOFT_ABOVE_DB &&
      voicing[i]! < VOICED &&
      sibilant[i]! < mid[i]! + BREATH_SIBILANT_DB;
    // One odd frame does not end it.
    const flags = Array.from({ length: Math.max(0, to - from) }, (_, i) => soft(from + i) || (soft(from + i - 1) && soft(from + i + 1)));
    return runs(flags).map(([a, b]) => [from + a, from + b]);
  };
  /** A breath rises out of the quiet; the end of a word only falls. */
  const swells = (from: number, to: number): boolean => {
    let top = -Infinity;
    for (let i = from; i < to; i++) top = Math.max(top, body[i]!);
    return top - body[Math.max(0, from - 1)]! > SWELL_DB || top - body[from]! > SWELL_DB;
  };
  /** The first frame from here on that is voiced for sure. */
  const nextVoiced = (frame: number): number => {
    for (let i = frame; i < body.length && (i - frame) * seconds <= WORDS_FOLLOW_SECONDS; i++)
      if (talk.isTalk[i] && voicing[i]! > WORD_VOICED) return i;
    return Infinity;
  };
  for (const stretch of talk.stretches) {
    if (stretch.talk) {
      for (const [from, to] of softRuns(stretch.from, stretch.lastVoiced))
        if (isBreath(from, to, nextVoiced(to)) && swells(from, to)) breaths.push(breath(from, to));
      // One that runs into the first word of a stretch: up to its first voiced frame, less a consonant.
      const to = stretch.firstVoiced - Math.round(CONSONANT_SECONDS / seconds);
      let end = stretch.from;
      while (end < to && mid[end]! < talk.talkBodyDb - BREATH_BELOW_DB) end++;
      const known = breaths.some(({ endSeconds }) => endSeconds > stretch.from * seconds);
      if (!known && isBreath(stretch.from, end, end)) breaths.push(breath(stretch.from, end));
      continue;
    }
    if (isBreath(stretch.from, stretch.to, nextVoiced(stretch.to))) breaths.push(breath(stretch.from, stretch.to));
    else if (isSound(stretch.from, stretch.to)) sounds.push(span(stretch.from, stretch.to));
  }

  function isSound(from: number, to: number): boolean {
    const long = (to - from) * seconds;
    const clear = Math.round(CLEAR_OF_WORDS_SECONDS / seconds);
    let top = -Infinity;
    for (let i = from; i < to; i++) top = Math.max(top, body[i]! - talk.floorDb[i]!);
    for (let i = Math.max(0, from - clear); i < Math.min(body.length, to + clear); i++) if (talk.isTalk[i]) return false;
    return long >= SOUND_SECONDS[0] && long <= SOUND_SECONDS[1] && top >= SOUND_ABOVE_DB;
  }
  return { breaths, sounds };
}

function findPauses(isTalk: Uint8Array, seconds: number): SpanSeconds[] {
  const rounded = (at: number): number => Math.round(at * 1000) / 1000;
  return (
    runs(Array.from(isTalk, (flag) => flag === 0))
      // Frames of talk reach half a hop to either side.
      .map(([from, to]) => ({
        startSeconds: from === 0 ? 0 : rounded((from + 0.5) * seconds),
        endSeconds: rounded((to - (to < isTalk.length ? 0.5 : 0)) * seconds),
      }))
      .filter(({ startSeconds, endSeconds }) => endSeconds - startSeconds >= PAUSE_SECONDS)
      .slice(0, MOST_PAUSES)
  );
}
