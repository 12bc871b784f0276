import { DspError } from '../errors.js';
import { analysisWindow, frameSizeFor } from '../spectrum/window.js';
import type { ChannelNoise, NoiseProfile } from './noise-profile.js';

/** What a file of this kind says of itself. Raise the version with every change that older code cannot read. */
export const PROFILE_FORMAT = 'noise-profile';
export const PROFILE_VERSION = 1;

/** A profile with its name, as JSON. Schema: docs/noise-profile.md. */
export interface NoiseProfileFile {
  readonly format: typeof PROFILE_FORMAT;
  readonly version: typeof PROFILE_VERSION;
  readonly name: string;
  /** Where it was taken, in words. */
  readonly takenFrom: string;
  readonly sampleRateHz: number;
  /** Distance of the values: value k is of k · stepHz. */
  readonly stepHz: number;
  /** Frames that were averaged. */
  readonly frameCount: number;
  readonly channels: readonly ChannelDensity[];
}

/** By frequency, in dB against full scale (a mean square of 1) per hertz. */
export interface ChannelDensity {
  /** Of the mean power. */
  readonly levelDb: readonly number[];
  /** Mean and standard deviation of the level of single frames. */
  readonly frameLevelDb: readonly number[];
  readonly frameSpreadDb: readonly number[];
}

/** Longest name of a profile, most values a channel: what a file of another hand may bring. */
const MOST_NAME = 120;
const MOST_VALUES = 16385;
const DECIMALS = 100;

/** What |X|² under the analysis window is of a power density, dB: one-sided, so that the sum over the bins is the mean square. */
export function densityToPowerDb(sampleRateHz: number): number {
  const window = analysisWindow(frameSizeFor(sampleRateHz));
  return 10 * Math.log10((sampleRateHz * window.reduce((sum, w) => sum + w * w, 0)) / 2);
}

const rounded = (db: number): number => Math.round(db * DECIMALS) / DECIMALS;

/** A profile as a file: power densities, so that it does not hang on this transform. */
export function profileToFile(profile: NoiseProfile, name: string, takenFrom: string): NoiseProfileFile {
  const offsetDb = densityToPowerDb(profile.sampleRateHz);
  return {
    format: PROFILE_FORMAT,
    version: PROFILE_VERSION,
    name: name.slice(0, MOST_NAME),
    takenFrom,
    sampleRateHz: profile.sampleRateHz,
    stepHz: profile.sampleRateHz / profile.frameSize,
    frameCount: profile.frameCount,
    channels: profile.channels.map(({ meanPower, meanLevelDb, levelSpreadDb }) => ({
      levelDb: Array.from(meanPower, (power) => rounded(10 * Math.log10(power + 1e-20) - offsetDb)),
      frameLevelDb: Array.from(meanLevelDb, (db) => rounded(db - offsetDb)),
      frameSpreadDb: Array.from(levelSpreadDb, rounded),
    })),
  };
}

const fail = (rule: string): never => {
  throw new DspError('profile-file', `This is no noise profile that can be read: ${rule}.`);
};

/** Reads a profile from untrusted JSON. @throws {DspError} `profile-file` with what is wrong. */
export function parseProfileFile(value: unknown): NoiseProfileFile {
  if (typeof value !== 'object' || value === null) fail('it must be a JSON object');
  const json = value as Record<string, unknown>;
  if (json['format'] !== PROFILE_FORMAT) fail(`"format" must be "${PROFILE_FORMAT}"`);
  if (json['version'] !== PROFILE_VERSION) fail(`"version" ${String(json['version'])} is not known; version ${PROFILE_VERSION} is read`);
  const number = (name: string, min: number, max: number): number => {
    const given = json[name];
    return typeof given === 'number' && given >= min && given <= max ? given : fail(`"${name}" must be a number from ${min} to ${max}`);
  };
  const text = (name: string): string =>
    typeof json[name] === 'string' ? (json[name] as string).trim().slice(0, 2 * MOST_NAME) : fail(`"${name}" must be a text`);
  const channels = json['channels'];
  if (!Array.isArray(channels) || channels.length < 1 || channels.length > 2) fail('"channels" must be one or two');
  const length = ((channels as Partial<ChannelDensity>[])[0]?.levelDb as readonly number[] | undefined)?.length ?? 0;
  const values = (channel: unknown, c: number, name: string, min: number, max: number): number[] => {
    const list = typeof channel === 'object' && channel !== null ? (channel as Record<string, unknown>)[name] : undefined;
    const good =
      Array.isArray(list) &&
      list.length === length &&
      length >= 3 &&
      length <= MOST_VALUES &&
      list.every((v) => typeof v === 'number' && v >= min && v <= max);
    return good
      ? (list as number[])
      : fail(`"channels[${c}].${name}" must have 3 to ${MOST_VALUES} numbers from ${min} to ${max}, as many as every other list`);
  };
  const name = text('name').slice(0, MOST_NAME);
  if (name === '') fail('"name" must not be empty');
  return {
    format: PROFILE_FORMAT,
    version: PROFILE_VERSION,
    name,
    takenFrom: text('takenFrom'),
    sampleRateHz: number('sampleRateHz', 8000, 192000),
    stepHz: number('stepHz', 1, 1000),
    frameCount: number('frameCount', 1, 1e9),
    channels: (channels as unknown[]).map((channel, c) => ({
      levelDb: values(channel, c, 'levelDb', -400, 60),
      frameLevelDb: values(channel, c, 'frameLevelDb', -400, 60),
      frameSpreadDb: values(channel, c, 'frameSpreadDb', 0, 200),
    })),
  };
}

/**
 * The profile of a file for a sound of another sample rate or number of channels: densities are interpolated between
 * their frequencies; above its own band the last known one holds. One channel serves for two; of two the mean serves one.
 */
export function profileFromFile(file: NoiseProfileFile, sampleRateHz: number, channels: number): NoiseProfile {
  const frameSize = frameSizeFor(sampleRateHz);
  const bins = frameSize / 2 + 1;
  const offsetDb = densityToPowerDb(sampleRateHz);
  const step = sampleRateHz / frameSize / file.stepHz;
  const at = (values: readonly number[], k: number): number => {
    const place = Math.min(values.length - 1, k * step);
    const low = Math.min(values.length - 2, Math.floor(place));
    return values[low]! + (values[low + 1]! - values[low]!) * (place - low);
  };
  const read = ({ levelDb, frameLevelDb, frameSpreadDb }: ChannelDensity): ChannelNoise => ({
    meanPower: Float32Array.from({ length: bins }, (_, k) => 10 ** ((at(levelDb, k) + offsetDb) / 10)),
    meanLevelDb: Float32Array.from({ length: bins }, (_, k) => at(frameLevelDb, k) + offsetDb),
    levelSpreadDb: Float32Array.from({ length: bins }, (_, k) => at(frameSpreadDb, k)),
  });
  const all = file.channels.map(read);
  const mean = (of: (noise: ChannelNoise) => Float32Array): Float32Array =>
    of(all[0]!).map((value, k) => (value + of(all[all.length - 1]!)[k]!) / 2);
  const one = (): ChannelNoise => ({
    meanPower: mean((noise) => noise.meanPower),
    meanLevelDb: mean((noise) => noise.meanLevelDb),
    levelSpreadDb: mean((noise) => noise.levelSpreadDb),
  });
  return {
    sampleRateHz,
    frameSize,
    frameCount: file.frameCount,
    channels: Array.from({ length: channels }, (_, c) => (channels < all.length ? one() : (all[c] ?? all[0]!))),
  };
}
