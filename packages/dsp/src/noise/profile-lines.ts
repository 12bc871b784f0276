import { powerBetween } from '../survey/spectrum-facts.js';
import { densityToPowerDb } from './profile-file.js';
import type { NoiseProfile } from './noise-profile.js';

/** A profile along given frequencies, the mean of its channels, in dB against full scale per hertz. */
export interface ProfileLines {
  /** Mean power; the strongest bin between neighbouring frequencies, so that no tone is lost. */
  readonly levelDb: readonly number[];
  /** Mean level of single frames, less and plus a standard deviation. */
  readonly lowDb: readonly number[];
  readonly highDb: readonly number[];
  /** Mean power over a third of an octave: what the noise is like without its tones and flutter. */
  readonly smoothDb: readonly number[];
}

const THIRD = 2 ** (1 / 6);

/** Mean of two or fewer channels, by bin. */
function meanOf(profile: NoiseProfile, of: (channel: NoiseProfile['channels'][number]) => Float32Array): Float32Array {
  const lists = profile.channels.map(of);
  return Float32Array.from(lists[0]!, (_, k) => lists.reduce((sum, list) => sum + list[k]!, 0) / lists.length);
}

/** @param hz rising, all above 0; what lies beyond the band holds its end. */
export function profileLines(profile: NoiseProfile, hz: readonly number[]): ProfileLines {
  const binHz = profile.sampleRateHz / profile.frameSize;
  const offsetDb = densityToPowerDb(profile.sampleRateHz);
  const power = meanOf(profile, ({ meanPower }) => meanPower);
  const level = meanOf(profile, ({ meanLevelDb }) => meanLevelDb);
  const spread = meanOf(profile, ({ levelSpreadDb }) => levelSpreadDb);
  const top = power.length - 1;
  const edge = (i: number): number => Math.sqrt(hz[Math.max(0, i - 1)]! * hz[Math.min(hz.length - 1, i)]!) / binHz;
  const strongest = hz.map((_, i) => {
    const from = Math.min(top, Math.max(1, Math.round(edge(i))));
    const to = Math.min(top, Math.max(from, Math.round(edge(i + 1)) - 1));
    let best = from;
    for (let k = from; k <= to; k++) if (power[k]! > power[best]!) best = k;
    return best;
  });
  const db = (value: number): number => 10 * Math.log10(value + 1e-20) - offsetDb;
  return {
    levelDb: strongest.map((k) => db(power[k]!)),
    lowDb: strongest.map((k) => level[k]! - spread[k]! - offsetDb),
    highDb: strongest.map((k) => level[k]! + spread[k]! - offsetDb),
    smoothDb: hz.map((at) => {
      const [low, high] = [Math.min(at / THIRD, (top - 1) * binHz), Math.min(at * THIRD, top * binHz)];
      // Narrower than two bins: between the two nearest.
      if (high - low < 2 * binHz) return db(power[Math.max(1, Math.min(top, Math.round(at / binHz)))]!);
      return db((powerBetween(power, binHz, low, high) * binHz) / (high - low));
    }),
  };
}

/** How one noise differs from another: in thirds of an octave, from 60 Hz to 16 kHz or the narrower band. */
export interface ProfileDifference {
  /** Level of all of it against the other, dB. */
  readonly levelDb: number;
  /** Where they differ most, beyond the level: frequency and by how many dB. */
  readonly mostHz: number;
  readonly mostDb: number;
}

/** What `profile` has more (+) or less than `other`. */
export function compareProfiles(profile: NoiseProfile, other: NoiseProfile): ProfileDifference {
  const top = Math.min(16000, (Math.min(profile.sampleRateHz, other.sampleRateHz) / 2) * 0.9);
  const hz = Array.from({ length: 40 }, (_, i) => 60 * 2 ** (i / 3)).filter((at) => at < top);
  const [a, b] = [profileLines(profile, hz).smoothDb, profileLines(other, hz).smoothDb];
  const sum = (levels: readonly number[]): number =>
    10 * Math.log10(levels.reduce((all, level, i) => all + 10 ** (level / 10) * hz[i]!, 0));
  const levelDb = sum(a) - sum(b);
  const beyond = a.map((level, i) => level - b[i]! - levelDb);
  const most = beyond.reduce((best, value, i) => (Math.abs(value) > Math.abs(beyond[best]!) ? i : best), 0);
  return { levelDb, mostHz: hz[most]!, mostDb: beyond[most]! };
}
