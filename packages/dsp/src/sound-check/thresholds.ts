import { quantile } from '../survey/growing.js';
import { GATE_HYSTERESIS_DB } from './figures.js';
import type { GateListens } from './gate-track.js';

/** What is heard of each listen, as the detector of a gate hears it: dBFS, a millisecond apart. */
export interface GateTracks {
  readonly silence: Float32Array;
  /** The usual noise: keys, chair, paper; null when it was passed over. */
  readonly usual: Float32Array | null;
  readonly speech: Float32Array;
}

export interface Thresholds {
  readonly listens: GateListens;
  /** Live: by level alone. */
  readonly openDb: number;
  readonly closeDb: number;
  /** In what was recorded, where it knows who talks: lower, as typing need not be kept out by level. */
  readonly recorded: { readonly openDb: number; readonly closeDb: number; readonly awayDb: number };
  /** What it must stay shut for, and what it must open for. */
  readonly floorDb: number;
  readonly usualDb: number | null;
  readonly softestDb: number;
  /** How far the softest beginning of a word stands over where it must open at least; negative: something is lost. */
  readonly marginDb: number;
  /** `all`: shut for both; `silence`: typing opens it, or words would be lost; `none`: words do not stand clear of the silence. */
  readonly shuts: 'all' | 'silence' | 'none';
}

/** A word stands so far above the floor, is so long, and begins after a gap: any, as the next time it may be one in which a gate closes. */
const WORD_OVER_FLOOR_DB = 6;
const WORD_MS = 60;
const GAP_MS = 120;
/** What stays so far under the loud moments is a breath, or the room: no word. */
const NO_WORD_DB = 24;
/** What is so far below the top of its word is not missed. Common practice, no source. */
const AUDIBLE_DB = 30;
/** It must open within what it hears ahead and so much: more of a word is missed. */
const MAY_MISS_MS = 10;
export const LOOK_AHEAD_MS = 40;
const LIVE_LOOK_AHEAD_MS = 1;
/** Over what it stays shut for; and under the softest beginning that was heard, since others will be softer. */
const OVER_DB = 0.5;
const UNDER_DB = 4;
/** Words first: of what is free it takes no more than this. */
const MOST_OVER_DB = 1;

/** The level that each word (or run of words without a gap) reaches in time: within what a gate hears ahead and what may be missed. */
export function wordOnsets(levels: Float32Array, floorDb: number, lookAheadMs: number): number[] {
  const onsets: number[] = [];
  const least = quantile(levels, 0.95) - NO_WORD_DB;
  const over = floorDb + WORD_OVER_FLOOR_DB;
  let from = -1;
  let last = -GAP_MS;
  const take = (start: number, end: number): void => {
    if (end - start < WORD_MS) return;
    let top = -Infinity;
    for (let i = start; i < end; i++) top = Math.max(top, levels[i]!);
    if (top < least) return;
    let begin = start;
    while (begin < end && levels[begin]! < top - AUDIBLE_DB) begin++;
    let reached = -Infinity;
    for (let i = begin; i < Math.min(levels.length, begin + lookAheadMs + MAY_MISS_MS); i++) reached = Math.max(reached, levels[i]!);
    onsets.push(reached);
  };
  for (let i = 0; i < levels.length; i++) {
    if (levels[i]! < over) continue;
    if (from < 0) from = i;
    else if (i - last > GAP_MS) {
      take(from, last + 1);
      from = i;
    }
    last = i;
  }
  if (from >= 0) take(from, last + 1);
  return onsets;
}

/** Half decibels, as the rulers have them. */
const half = (db: number): number => Math.round(2 * db) / 2;

/**
 * Where a gate closes and opens that hears so, from three short listens.
 * @param live as they come through what stands before the gate while it is heard, `recorded` in what is recorded
 */
export function gateThresholds(live: GateTracks, listens: GateListens, recorded: GateTracks = live): Thresholds {
  const noise = noiseOf(live);
  const softestDb = softestOf(live, noise.floorDb, LIVE_LOOK_AHEAD_MS);
  const marginDb = free(noise.loudestDb, softestDb);
  const later = noiseOf(recorded);
  const stands = free(later.floorDb, softestOf(recorded, later.floorDb, LOOK_AHEAD_MS)) >= 0;
  const shuts = marginDb >= 0 ? 'all' : stands ? 'silence' : 'none';
  const noiseDb = shuts === 'all' ? noise.loudestDb : noise.floorDb;
  const openDb = opensOver(noiseDb + Math.min(MOST_OVER_DB, Math.max(0, free(noiseDb, softestDb)) / 3));
  const recordedOpenDb = opensOver(later.floorDb);
  return {
    listens,
    openDb,
    closeDb: half(openDb - GATE_HYSTERESIS_DB),
    recorded: {
      openDb: recordedOpenDb,
      closeDb: half(recordedOpenDb - GATE_HYSTERESIS_DB),
      // Typing stays under where it opens; a word that the survey has missed, and that is louder, does not.
      awayDb: half(Math.max(AWAY_DB, later.loudestDb + GATE_HYSTERESIS_DB + AWAY_OVER_DB - recordedOpenDb)),
    },
    floorDb: noise.floorDb,
    usualDb: live.usual && noise.loudestDb,
    softestDb,
    marginDb,
    shuts,
  };
}

/** Silence, and the loudest of what it must stay shut for. */
function noiseOf({ silence, usual }: GateTracks): { readonly floorDb: number; readonly loudestDb: number } {
  const floorDb = quantile(silence, 0.98);
  return { floorDb, loudestDb: usual ? Math.max(floorDb, quantile(usual, 0.99)) : floorDb };
}

/** Without a word there is nothing that it could open for. */
function softestOf({ speech }: GateTracks, floorDb: number, lookAheadMs: number): number {
  const onsets = wordOnsets(speech, floorDb, lookAheadMs);
  return onsets.length === 0 ? NO_WORD_DBFS : quantile(onsets, 0.02);
}

/** What is left between where it must open over a noise and where it must open for a word. */
const free = (noiseDb: number, onsetDb: number): number => onsetDb - UNDER_DB - (noiseDb + OVER_DB + GATE_HYSTERESIS_DB);
const opensOver = (noiseDb: number): number => half(noiseDb + OVER_DB + GATE_HYSTERESIS_DB);

const NO_WORD_DBFS = -160;

/** Where nobody talks it hears so much less at least; and keys stay so far under where it opens. */
const AWAY_DB = 12;
const AWAY_OVER_DB = 2;

/** Tracks of both bands that a gate may listen to. */
export type BandTracks = Readonly<Record<GateListens, GateTracks>>;

/** Of what a gate may listen to, what leaves most room between noise and words: everything, unless the voice band is clearly better. */
export function bestThresholds(live: BandTracks, recorded: BandTracks = live): Thresholds {
  const [all, voice] = [gateThresholds(live.all, 'all', recorded.all), gateThresholds(live.voice, 'voice', recorded.voice)];
  return voice.marginDb > all.marginDb + 2 ? voice : all;
}
