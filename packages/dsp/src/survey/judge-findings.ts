import { powerToDb } from '../units.js';
import type { ChannelSurvey } from './channel-survey.js';
import type { FindingFacts, HumLine } from './findings.js';
import { joinSpans, type ChannelPair } from './flaws.js';
import { findGaps } from './gaps.js';
import { quantile } from './growing.js';
import { humsOf, type Hum } from './hum-lines.js';
import { roomDecaySeconds } from './room-decay.js';
import { bandwidthHz, powerBetween, thirdOctaves } from './spectrum-facts.js';
import { findTalk, type HeardChannel, type Talk } from './talk.js';

/** A finding with how sure it is, 0 … 1. */
export type Fact = readonly [FindingFacts, number];

// Limits of detection: below them nothing is told. Common practice, no source, unless said otherwise.
/** A constant offset from which on it is told, of full scale. */
export const LEAST_OFFSET = 0.0015;
const QUIETER_DB = 12;
export const DEAD_DB = 35;
/** Sides that differ by less are one and the same. */
export const IDENTICAL_DB = -60;
export const SILENT_DBFS = -100;
const LEAST_RUMBLE_DBFS = -57;
const LEAST_HISS_DBFS = -72;
const LEAST_ROOM_SECONDS = 0.45;
const HARSH_DB = -1;
const LEAST_CLICKS_A_MINUTE = 6;
/** A burst whose low end stays this far under the body of the talk is part of speaking. */
const PLOSIVE_UNDER_TALK_DB = 6;
const VOICED = 0.7;
/** No voice is lower; what rumble leaves is. */
const LEAST_NOTE_HZ = 70;
/** A line this far under the whole noise is nobody's trouble; nor is one under this level. */
const LINE_UNDER_NOISE_DB = 12;
const LEAST_LINE_DBFS = -86;
const LINE_IN_GAPS_DB = 4;

const sure = (value: number, from: number, to: number): number =>
  Math.max(0.5, Math.min(0.99, 0.5 + (0.49 * (value - from)) / (to - from)));

/** What concerns the channels as such. */
export function channelFacts(channels: readonly ChannelSurvey[], pair: ChannelPair | null): Fact[] {
  const facts: Fact[] = [];
  const worst = [...channels].map(({ flaws }) => flaws.dcOffset).sort((a, b) => Math.abs(b) - Math.abs(a))[0] ?? 0;
  if (Math.abs(worst) >= LEAST_OFFSET) facts.push([{ kind: 'dc-offset', fraction: worst }, sure(Math.abs(worst), LEAST_OFFSET, 0.01)]);
  if (!pair) return facts;
  const [first, second] = channels.map(({ flaws }) => flaws.rmsDbfs) as [number, number];
  // Where there is no sound at all, no side is worse than the other.
  if (Math.max(first, second) < SILENT_DBFS) return facts;
  const db = Math.abs(first - second);
  const quiet = first < second ? 0 : 1;
  if (Math.min(first, second) < SILENT_DBFS || db > DEAD_DB)
    facts.push([{ kind: 'channel', problem: 'dead', channel: quiet + 1, db }, 0.97]);
  else if (db > QUIETER_DB) facts.push([{ kind: 'channel', problem: 'quieter', channel: quiet + 1, db }, sure(db, QUIETER_DB, 20)]);
  else if (pair.differenceDb < IDENTICAL_DB) facts.push([{ kind: 'channel', problem: 'identical', channel: 2, db: 0 }, 0.98]);
  else if (pair.correlation < -0.85)
    facts.push([{ kind: 'channel', problem: 'opposite', channel: 2, db: 0 }, sure(-pair.correlation, 0.85, 0.98)]);
  return facts;
}

/** What is heard of one channel, and who talks on it; null where it is too short for that. */
export interface Heard extends HeardChannel {
  readonly talks: boolean;
}

/** What concerns the sound of one channel; what lies between its words is told by `gapFacts`. */
export function contentFacts(channel: ChannelSurvey, seconds: number): { readonly facts: Fact[]; readonly heard: Heard | null } {
  const { features, flaws } = channel;
  const facts: Fact[] = [];
  const clipping = flaws.clipping();
  if (clipping) facts.push([{ kind: 'clipping', ...clipping }, clipping.shape === 'soft' ? 0.6 : sure(clipping.count, 2, 20)]);
  if (flaws.dropouts.length > 0) facts.push([{ kind: 'dropouts', count: flaws.dropouts.length, spans: flaws.dropouts }, 0.9]);
  if (features.body.length < 8) return { facts, heard: null };
  const talk = findTalk(features);
  const talks = talk.talkFrames * features.frameSeconds >= 0.5;
  // Quiet frames: up to 3 dB above their median.
  const quiet = features.meanSpectrum(-Infinity, talk.quietDb + 3);
  const noiseDb = quiet ? powerToDb(powerBetween(quiet.power, features.binHz, 20, features.sampleRateHz / 2) + 1e-16) : -Infinity;
  const hums = trueHums(channel, talk, noiseDb);
  facts.push(...eventFacts(channel, clipping !== null, seconds, talks ? talk.talkBodyDb : -40));
  if (quiet) facts.push(...noiseFacts(channel, talk, talks, quiet.power, noiseDb, hums));
  facts.push(...hums.map((hum): Fact => humFact(channel, hum, noiseDb)));
  if (talks) facts.push(...voiceFacts(channel, talk));
  return { facts, heard: { features, talk, talks } };
}

/**
 * What lies between the words on `own`, where `others` are silent too: breaths, sounds, pauses, and passages with noise alone. Of
 * several channels together only what is there on all of them.
 */
export function gapFacts(own: readonly Heard[], others: readonly Heard[]): Fact[] {
  const facts: Fact[] = [];
  const talks = own.some((heard) => heard.talks);
  const gaps = findGaps(own, others);
  if (gaps.passages.length > 0) facts.push([{ kind: 'noise-passages', spans: gaps.passages }, 0.9]);
  if (talks && gaps.pauses.length > 0) facts.push([{ kind: 'pauses', count: gaps.pauses.length, spans: gaps.pauses }, 0.9]);
  if (gaps.sounds.length > 0) facts.push([{ kind: 'gap-sounds', count: gaps.sounds.length, spans: gaps.sounds }, 0.7]);
  if (gaps.breaths.length > 0) facts.push([{ kind: 'breaths', count: gaps.breaths.length, spans: gaps.breaths }, 0.7]);
  return facts;
}

function eventFacts({ events, sampleRateHz, flaws }: ChannelSurvey, clips: boolean, seconds: number, talkBodyDb: number): Fact[] {
  const facts: Fact[] = [];
  const at = ({ startFrame }: { readonly startFrame: number }): number => Math.max(0, startFrame) / sampleRateHz;
  // The edges of flat tops and dropouts are no clicks of their own.
  const clicks = clips
    ? []
    : events.clicks
        .map(at)
        .filter((second) => !flaws.dropouts.some((span) => second > span.startSeconds - 0.01 && second < span.endSeconds + 0.01));
  const perMinute = (clicks.length / seconds) * 60;
  // A few a minute are as often consonants that crack.
  if (clicks.length >= 3 && perMinute > LEAST_CLICKS_A_MINUTE)
    facts.push([{ kind: 'clicks', count: clicks.length, perMinute, atSeconds: clicks }, sure(perMinute, LEAST_CLICKS_A_MINUTE, 20)]);
  const spans = events.plosives
    .filter(({ amountDb, levelDbfs }) => amountDb >= 8 && (levelDbfs ?? 0) > talkBodyDb - PLOSIVE_UNDER_TALK_DB)
    .map(({ startFrame, endFrame }) => ({ startSeconds: startFrame / sampleRateHz, endSeconds: endFrame / sampleRateHz }));
  if (spans.length > 0)
    facts.push([
      { kind: 'plosives', count: spans.length, atSeconds: spans.map((span) => span.startSeconds), spans },
      sure(spans.length, 0, 6),
    ]);
  return facts;
}

function noiseFacts(
  { features, flaws }: ChannelSurvey,
  talk: Talk,
  talks: boolean,
  power: Float64Array,
  noiseDb: number,
  hums: readonly Hum[],
): Fact[] {
  const { binHz, sampleRateHz } = features;
  const facts: Fact[] = [[{ kind: 'noise-floor', dbfs: noiseDb, thirdOctaves: thirdOctaves(power, binHz) }, 0.95]];
  const lowest = lowestVoiceHz(features, talk);
  // Lines below the voice are told as hum.
  const lines = hums
    .flatMap(({ lines: members }) => members)
    .filter(({ hz }) => hz < 75)
    .reduce((sum, { dbfs }) => sum + 10 ** (dbfs / 10), 0);
  // A constant offset leaks into the first bin of a Hann window: a third of its power.
  const low = powerBetween(power, binHz, 12, 75) - lines - flaws.dcOffset ** 2 / 3;
  const above = powerBetween(power, binHz, 150, 600);
  const rumbleDb = powerToDb(Math.max(low, 1e-16));
  // As much in the octaves below the voice as in those of its body and more is rumble, not the tail of a hiss.
  if (rumbleDb > LEAST_RUMBLE_DBFS && low > above && low > lines * 0.5)
    facts.push([
      { kind: 'rumble', belowHz: Math.round(Math.min(75, lowest ?? 75)), dbfs: rumbleDb, lowestVoiceHz: lowest },
      sure(rumbleDb, LEAST_RUMBLE_DBFS, -45),
    ]);
  const hissDb = powerToDb(powerBetween(power, binHz, 4000, Math.min(16000, sampleRateHz / 2)) + 1e-16);
  if (hissDb > LEAST_HISS_DBFS) facts.push([{ kind: 'hiss', aboveHz: 4000, dbfs: hissDb }, sure(hissDb, LEAST_HISS_DBFS, -55)]);
  if (!talks) return facts;
  const loud = features.meanSpectrum(talk.talkBodyDb - 12, Infinity);
  const talkDb = powerToDb(Math.max(1e-16, talkPower(features, talk)));
  facts.push([{ kind: 'speech-level', dbfs: talkDb, talkSeconds: talk.talkFrames * features.frameSeconds }, 0.95]);
  facts.push([{ kind: 'speech-to-noise', db: talkDb - noiseDb }, 0.9]);
  const edge = loud && bandwidthHz(loud.power, binHz);
  if (edge && edge < 0.92 * (sampleRateHz / 2)) facts.push([{ kind: 'bandwidth', hz: Math.round(edge / 10) * 10 }, 0.85]);
  return facts;
}

/** Mean power of the talking frames over the whole band: their body, scaled by the spectrum of the loud ones. */
function talkPower(features: ChannelSurvey['features'], talk: Talk): number {
  const loud = features.meanSpectrum(talk.talkBodyDb - 12, Infinity);
  const bodyPower = 10 ** (talk.talkBodyDb / 10);
  if (!loud) return bodyPower;
  const whole = powerBetween(loud.power, features.binHz, 20, features.sampleRateHz / 2);
  const body = powerBetween(loud.power, features.binHz, 150, 3500);
  return bodyPower * (whole / body);
}

/** The lowest note of this voice: the fifth percentile of the fundamentals of clearly voiced frames. */
function lowestVoiceHz(features: ChannelSurvey['features'], talk: Talk): number | null {
  const voicing = features.voicing.values;
  const notes = features.fundamentalHz.values.filter((hz, i) => talk.isTalk[i] === 1 && voicing[i]! > VOICED && hz > LEAST_NOTE_HZ);
  return notes.length < 20 ? null : Math.round(quantile(notes, 0.05) * 10) / 10;
}

/** Hums that stand out of the noise, high lines of the full band included. */
function trueHums(channel: ChannelSurvey, talk: Talk, noiseDb: number): Hum[] {
  const { lines, probe } = channel.lines.finish();
  const audible = lines.filter(({ dbfs }) => dbfs > Math.max(LEAST_LINE_DBFS, noiseDb - LINE_UNDER_NOISE_DB - 12));
  const hums = humsOf({ lines: audible, probe })
    .filter(({ lines: members }) => members.some(({ dbfs }) => dbfs > noiseDb - LINE_UNDER_NOISE_DB - 6))
    .filter((hum) => hum.source === 'mains' || standsInGaps(channel, talk, hum.lines[0]!));
  return [...hums, ...highTones(channel, talk, noiseDb)];
}

/** Whether a line is there while nobody talks, as loud as it was found: else it is a partial of a voice that is held. */
function standsInGaps({ features }: ChannelSurvey, talk: Talk, { hz, dbfs }: { readonly hz: number; readonly dbfs: number }): boolean {
  const quiet = features.meanSpectrum(-Infinity, talk.quietDb + 3);
  if (!quiet) return true;
  const k = Math.round(hz / features.binHz);
  return powerToDb(quiet.power[k - 1]! + quiet.power[k]! + quiet.power[k + 1]! + 1e-17) > dbfs - LINE_IN_GAPS_DB;
}

/** Steady tones above 1.5 kHz: bins of the quiet spectrum that stand 14 dB out of what is beside them. */
function highTones({ features }: ChannelSurvey, talk: Talk, noiseDb: number): Hum[] {
  const quiet = features.meanSpectrum(-Infinity, talk.quietDb + 3);
  if (!quiet || quiet.frames < 20) return [];
  const { power } = quiet;
  const found: Hum[] = [];
  for (let k = Math.ceil(1500 / features.binHz); k < power.length - 12; k++) {
    if (power[k]! <= power[k - 1]! || power[k]! < power[k + 1]!) continue;
    const around: number[] = [];
    for (let d = 3; d <= 10; d++) around.push(power[k - d]!, power[k + d]!);
    const aboveDb = powerToDb(power[k]! / (quantile(around, 0.5) + 1e-17));
    // A line spreads over the main lobe of the window: its three bins together hold its mean square.
    const dbfs = powerToDb(power[k - 1]! + power[k]! + power[k + 1]!);
    if (aboveDb < 14 || dbfs < Math.max(LEAST_LINE_DBFS, noiseDb - LINE_UNDER_NOISE_DB)) continue;
    const hz = features.lineHz(k, -Infinity, talk.quietDb + 3);
    found.push({ baseHz: hz, source: 'stray', lines: [{ hz, dbfs, aboveDb, harmonic: 1 }] });
  }
  return found.slice(0, 6);
}

function humFact(channel: ChannelSurvey, { baseHz, lines, source }: Hum, noiseDb: number): Fact {
  const rounded = (hz: number): number => Math.round(hz * 100) / 100;
  const harmonics = lines.map(({ hz, dbfs }): HumLine => ({ hz: rounded(hz), dbfs: Math.round(dbfs * 10) / 10 }));
  const strongest = [...lines].sort((a, b) => b.dbfs - a.dbfs)[0]!;
  const track = strongest.hz < 1500 ? channel.lines.finish().track(strongest.hz) : [];
  const driftHz = track.length < 2 ? 0 : (quantile(track, 0.95) - quantile(track, 0.05)) / strongest.harmonic;
  // The fewest that bring the hum under the floor: those that stand out of the noise beside them and are not buried by all of it.
  const fewest = lines.filter(({ dbfs }) => dbfs > noiseDb - 30).map(({ harmonic }) => harmonic);
  const aboveDb = Math.max(...lines.map((line) => line.aboveDb));
  return [{ kind: 'hum', baseHz: rounded(baseHz), harmonics, source, driftHz: rounded(driftHz), fewest }, sure(aboveDb, 10, 25)];
}

function voiceFacts({ features }: ChannelSurvey, talk: Talk): Fact[] {
  const facts: Fact[] = [];
  const decay = roomDecaySeconds(features, talk);
  if (decay !== null && decay >= LEAST_ROOM_SECONDS)
    facts.push([{ kind: 'room', decaySeconds: Math.round(decay * 100) / 100 }, sure(decay, LEAST_ROOM_SECONDS, 0.8)]);
  const sibilant = features.sibilant.values;
  const mid = features.mid.values;
  const frames: number[] = [];
  for (let i = 0; i < sibilant.length; i++)
    if (talk.isTalk[i] && sibilant[i]! > mid[i]! && sibilant[i]! > talk.talkBodyDb - 25) frames.push(i);
  // How loud the loudest tenth of the s is against the body of the voice.
  const db =
    frames.length < 5
      ? -Infinity
      : quantile(
          frames.map((i) => sibilant[i]!),
          0.9,
        ) - talk.talkBodyDb;
  if (db > HARSH_DB) {
    const seconds = features.frameSeconds;
    const harsh = frames.filter((i) => sibilant[i]! - talk.talkBodyDb > HARSH_DB);
    facts.push([
      {
        kind: 'sibilance',
        db,
        spans: joinSpans(
          harsh.map((i) => ({ startSeconds: i * seconds, endSeconds: (i + 1) * seconds })),
          0.08,
        ),
      },
      sure(db, HARSH_DB, 2),
    ]);
  }
  return facts;
}
