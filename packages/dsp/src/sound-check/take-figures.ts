import { highPassSection, lowPassSection, type Section } from '../filters/sections.js';
import type { KernelModule } from '../kernels/instance.js';
import { MAX_BLOCK_FRAMES } from '../processor.js';
import type { Finding, FindingKind } from '../survey/findings.js';
import { Surveyor } from '../survey/surveyor.js';
import { powerToDb } from '../units.js';
import { roomShareDb } from './room-share.js';
import { stepPowers } from './step-powers.js';

/** What is compared between takes. */
export interface TakeFigures {
  readonly floorDbfs: number;
  readonly speechDbfs: number;
  readonly roomShareDb: number | null;
  /** Base of a hum, where there is one. */
  readonly humHz: number | null;
  /** Level of talk from 2 to 6 kHz against 250 Hz to 1 kHz, dB. */
  readonly brightDb: number;
}

const BODY_HZ = [250, 1000] as const;
const BRIGHT_HZ = [2000, 6000] as const;
const STEP_SECONDS = 0.02;
const TALK_OVER_FLOOR_DB = 15;

/** Floor, level, room, hum and tone of a take; null when hardly anybody talks in it. */
export function takeFigures(kernels: KernelModule, sound: Float32Array, sampleRateHz: number): TakeFigures | null {
  const surveyor = new Surveyor(kernels, sampleRateHz, 1);
  surveyor.process([sound], sound.length);
  const { findings } = surveyor.finish();
  const find = <K extends FindingKind>(kind: K) =>
    findings.find((finding) => finding.kind === kind) as Extract<Finding, { kind: K }> | undefined;
  const talk = find('speech-level');
  if (!talk || talk.talkSeconds < 1) return null;
  const floorDbfs = find('noise-floor')?.dbfs ?? -100;
  return {
    floorDbfs,
    speechDbfs: talk.dbfs,
    roomShareDb: roomShareDb(kernels, sound, sampleRateHz, floorDbfs),
    humHz: find('hum')?.baseHz ?? null,
    brightDb: brightness(kernels, sound, sampleRateHz, floorDbfs),
  };
}

function brightness(kernels: KernelModule, sound: Float32Array, sampleRateHz: number, floorDbfs: number): number {
  const band = ([low, high]: readonly [number, number]): Section[] => [
    highPassSection(low, Math.SQRT1_2, sampleRateHz),
    lowPassSection(Math.min(high, 0.45 * sampleRateHz), Math.SQRT1_2, sampleRateHz),
  ];
  const step = Math.min(MAX_BLOCK_FRAMES, Math.round(STEP_SECONDS * sampleRateHz));
  const body = stepPowers(kernels, band(BODY_HZ), sound, step);
  const bright = stepPowers(kernels, band(BRIGHT_HZ), sound, step);
  let [low, high] = [1e-14, 1e-14];
  body.forEach((power, i) => {
    if (powerToDb(power + 1e-14) < floorDbfs + TALK_OVER_FLOOR_DB) return;
    low += power;
    high += bright[i]!;
  });
  return powerToDb(high / low);
}
