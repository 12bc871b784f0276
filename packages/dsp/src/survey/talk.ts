import { powerToDb } from '../units.js';
import type { Features } from './features.js';
import { quantile, runs } from './growing.js';

/** A frame is active when its body, or what an s is made of, stands so far above the floor around it. */
const ACTIVE_DB = 7;
/** The floor is taken of this stretch; talk rarely fills it without a gap. */
const FLOOR_SECONDS = 12;
const FLOOR_SHARE = 0.08;
/** Gaps shorter than this lie within a word. */
const BRIDGE_SECONDS = 0.12;
/** Voiced frames, and how many of them make an active stretch talk. */
const VOICED = 0.55;
const LEAST_VOICED_SECONDS = 0.08;
/** Nobody talks this quietly below the rest, and no floor is counted below this. */
const BELOW_TALK_DB = 32;
const LEAST_FLOOR_DBFS = -100;

/** An active stretch in frames, and whether somebody talks in it. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
  readonly talk: boolean;
  /** First and last voiced frame, or -1. */
  readonly firstVoiced: number;
  readonly lastVoiced: number;
}

/** Where somebody talks, frame by frame, and the levels of talk and of what is between. */
export interface Talk {
  readonly floorDb: Float32Array;
  readonly isTalk: Uint8Array;
  readonly stretches: readonly Stretch[];
  /** Level of the body of the talk (mean power of talking frames), dBFS; -Infinity when nobody talks. */
  readonly talkBodyDb: number;
  readonly talkFrames: number;
  /** Level of the quiet frames, as frames are sorted: median. */
  readonly quietDb: number;
}

/** One channel, and who talks on it. */
export interface HeardChannel {
  readonly features: Features;
  readonly talk: Talk;
}

/** What is needed of a channel to tell its own talk from that of others. */
export interface HeardTalk {
  readonly features: Pick<Features, 'body' | 'frameSeconds'>;
  readonly talk: Talk;
}

/**
 * Speech activity: what stands above the floor around it is active; an active stretch is talk when enough of it is
 * voiced (normalised autocorrelation at a voice's period), so that coughs, chairs and breaths are not.
 */
export function findTalk(features: Features): Talk {
  const body = features.body.values;
  const level = features.level.values;
  const sibilant = features.sibilant.values;
  const voicing = features.voicing.values;
  const count = body.length;
  const floorDb = floorOf(body, FLOOR_SECONDS / features.frameSeconds);
  const sibilantFloor = floorOf(sibilant, FLOOR_SECONDS / features.frameSeconds);
  const loudest = quantile(body, 0.97);
  const active = new Uint8Array(count);
  for (let i = 0; i < count; i++)
    active[i] =
      (body[i]! > floorDb[i]! + ACTIVE_DB && body[i]! > loudest - BELOW_TALK_DB - 8) ||
      (sibilant[i]! > sibilantFloor[i]! + ACTIVE_DB + 3 && sibilant[i]! > loudest - BELOW_TALK_DB)
        ? 1
        : 0;
  const bridge = Math.round(BRIDGE_SECONDS / features.frameSeconds);
  for (const [from, to] of runs(Array.from(active, (flag) => flag === 0)))
    if (from > 0 && to < count && to - from <= bridge) active.fill(1, from, to);
  const leastVoiced = Math.max(2, Math.round(LEAST_VOICED_SECONDS / features.frameSeconds));
  const stretches = runs(active).map(([from, to]): Stretch => {
    let voiced = 0;
    let firstVoiced = -1;
    let lastVoiced = -1;
    for (let i = from; i < to; i++) {
      if (voicing[i]! < VOICED || body[i]! < loudest - BELOW_TALK_DB) continue;
      voiced++;
      lastVoiced = i;
      if (firstVoiced < 0) firstVoiced = i;
    }
    return { from, to, talk: voiced >= leastVoiced, firstVoiced, lastVoiced };
  });
  const isTalk = new Uint8Array(count);
  for (const { from, to, talk } of stretches) if (talk) isTalk.fill(1, from, to);
  let power = 0;
  let talkFrames = 0;
  const quiet: number[] = [];
  for (let i = 0; i < count; i++) {
    if (isTalk[i]) {
      power += 10 ** (body[i]! / 10);
      talkFrames++;
    } else if (!active[i] && body[i]! > LEAST_FLOOR_DBFS - 9) quiet.push(level[i]!);
  }
  return {
    floorDb,
    isTalk,
    stretches,
    talkFrames,
    talkBodyDb: powerToDb(power / Math.max(1, talkFrames)),
    quietDb: quiet.length > 0 ? quantile(quiet, 0.5) : quantile(level, 0.02),
  };
}

/** A low quantile of the surroundings of each frame; digital silence does not count. */
function floorOf(levels: Float32Array, spanFrames: number): Float32Array {
  const step = Math.max(1, Math.round(spanFrames / 6));
  const points = Math.ceil(levels.length / step) + 1;
  const at = new Float32Array(points);
  for (let p = 0; p < points; p++) {
    const from = Math.max(0, Math.round(p * step - spanFrames / 2));
    const around = levels
      .subarray(from, Math.min(levels.length, Math.round(p * step + spanFrames / 2)))
      .filter((level) => level > LEAST_FLOOR_DBFS);
    at[p] = around.length < 10 ? LEAST_FLOOR_DBFS : quantile(around, FLOOR_SHARE) + 2;
  }
  return Float32Array.from(levels, (_, i) => {
    const place = i / step;
    const low = Math.floor(place);
    return at[low]! + (at[Math.min(points - 1, low + 1)]! - at[low]!) * (place - low);
  });
}

/** One talks over another where the level against that of its own talk is so much higher. Common practice, no source. */
const BLEED_UNDER_DB = 10;

/**
 * Who talks, without what is only heard of somebody on another channel: frames in which another channel, against the level of its own
 * talk, stands far above this one. What is left of a word so for a moment only is taken away too.
 */
export function withoutBleed(channels: readonly HeardTalk[]): Talk[] {
  return channels.map(({ features, talk }, c) => {
    const body = features.body.values;
    const isTalk = Uint8Array.from(talk.isTalk, (flag, i) => {
      if (flag === 0) return 0;
      const own = body[i]! - talk.talkBodyDb;
      return channels.some(
        (other, o) =>
          o !== c && other.talk.isTalk[i] === 1 && other.features.body.values[i]! - other.talk.talkBodyDb > own + BLEED_UNDER_DB,
      )
        ? 0
        : 1;
    });
    const least = Math.round(BRIDGE_SECONDS / features.frameSeconds);
    for (const [from, to] of runs(isTalk)) {
      const cut = (from > 0 && talk.isTalk[from - 1] === 1) || (to < isTalk.length && talk.isTalk[to] === 1);
      if (cut && to - from <= least) isTalk.fill(0, from, to);
    }
    return { ...talk, isTalk };
  });
}
