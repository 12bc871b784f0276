import { Chain } from '../chain/chain.js';
import type { ChainSpec } from '../chain/chain-spec.js';
import { LiveChain } from '../live/live-chain.js';
import type { KernelModule } from '../kernels/instance.js';
import { judgeNoisePassage } from '../noise/judge.js';
import type { NoiseProfile } from '../noise/noise-profile.js';
import { takeNoiseProfile } from '../noise/profile.js';
import { LoudnessMeter } from '../measures/loudness.js';
import { TruePeakMeter } from '../measures/true-peak-meter.js';
import type { FindingFacts, FindingKind } from '../survey/findings.js';
import { Surveyor } from '../survey/surveyor.js';
import { powerToDb } from '../units.js';
import type { SoundCheckFigures } from './figures.js';
import { gateTrack, type GateListens } from './gate-track.js';
import { roomShareDb } from './room-share.js';
import { chainBeforeGate, wholeChain } from './suggest-chain.js';
import { bestThresholds, type BandTracks, type GateTracks, type Thresholds } from './thresholds.js';

/** One channel of each listen, as the device gave it. */
export interface HeardListens {
  readonly silence: Float32Array;
  /** null when it was passed over. */
  readonly usual: Float32Array | null;
  readonly speech: Float32Array;
}

export interface SoundCheck {
  readonly figures: SoundCheckFigures;
  readonly thresholds: Thresholds;
  /** The noise of the silence. */
  readonly profile: NoiseProfile;
  readonly chain: ChainSpec;
}

/**
 * Measures three listens and makes a chain of them: thresholds from what was heard through all that stands before the gate.
 * @throws {DspError} `noise-too-short` for a silence under 0.3 s
 */
export function checkSound(kernels: KernelModule, sampleRateHz: number, heard: HeardListens): SoundCheck {
  const profile = takeNoiseProfile(kernels, [heard.silence], sampleRateHz);
  const figures = measure(kernels, sampleRateHz, heard);
  const before = chainBeforeGate(figures);
  const context = { sampleRateHz, channels: 1, kernels, noiseProfile: profile };
  const tracks = (make: () => Chain | LiveChain): BandTracks => bandTracks(kernels, sampleRateHz, heard, (sound) => through(make(), sound));
  const thresholds = bestThresholds(
    tracks(() => new LiveChain(context, before)),
    tracks(() => new Chain(context, before)),
  );
  return { figures, thresholds, profile, chain: wholeChain(before, figures, thresholds) };
}

/** The listens as the detector of a gate hears them, treated by all that stands before it. */
function bandTracks(
  kernels: KernelModule,
  sampleRateHz: number,
  heard: HeardListens,
  treated: (sound: Float32Array) => Float32Array,
): BandTracks {
  const [silence, usual, speech] = [treated(heard.silence), heard.usual && treated(heard.usual), treated(heard.speech)];
  // What has to learn the noise first is not judged by its beginning.
  const settled = Math.min(silence.length / 4, Math.round(SETTLE_SECONDS * sampleRateHz));
  const of = (listens: GateListens): GateTracks => {
    const track = (sound: Float32Array): Float32Array => gateTrack(kernels, sound, sampleRateHz, listens);
    return { silence: track(silence.subarray(settled)), usual: usual && track(usual), speech: track(speech) };
  };
  return { all: of('all'), voice: of('voice') };
}

const SETTLE_SECONDS = 0.3;

function measure(kernels: KernelModule, sampleRateHz: number, { silence, usual, speech }: HeardListens): SoundCheckFigures {
  const surveyor = new Surveyor(kernels, sampleRateHz, 1);
  surveyor.process([silence], silence.length);
  surveyor.process([speech], speech.length);
  const { findings } = surveyor.finish();
  const find = <K extends FindingKind>(kind: K): Extract<FindingFacts, { kind: K }> | null =>
    (findings.find((finding) => finding.kind === kind) as Extract<FindingFacts, { kind: K }> | undefined) ?? null;
  const judged = judgeNoisePassage(kernels, [silence], sampleRateHz);
  const peaks = new TruePeakMeter(kernels, 1);
  peaks.process([speech], speech.length);
  peaks.finish();
  const loudness = new LoudnessMeter(kernels, sampleRateHz, 1);
  loudness.process([speech], speech.length);
  const floorDbfs = judged.levelDbfs;
  const talk = find('speech-level');
  const usualTrack = usual && gateTrack(kernels, usual, sampleRateHz, 'all').sort();
  const speechDbfs = talk?.dbfs ?? powerToDb(speech.reduce((sum, x) => sum + x * x, 0) / Math.max(1, speech.length));
  return {
    floorDbfs,
    riseDb: judged.riseDb,
    driftDb: judged.driftDb,
    hum: find('hum'),
    rumbleDbfs: find('rumble')?.dbfs ?? null,
    hissDbfs: find('hiss')?.dbfs ?? null,
    usualDbfs: usualTrack && Math.max(floorDbfs, usualTrack[Math.floor(0.98 * usualTrack.length)]!),
    speechDbfs,
    speechLufs: loudness.integratedLufs ?? speechDbfs,
    peakDbtp: peaks.truePeakDbtp,
    clipped: flatTops(find('clipping')),
    speechToNoiseDb: speechDbfs - floorDbfs,
    plosives: find('plosives')?.count ?? 0,
    sibilanceDb: find('sibilance')?.db ?? null,
    roomShareDb: roomShareDb(kernels, speech, sampleRateHz, floorDbfs),
    talkSeconds: talk?.talkSeconds ?? 0,
    lowestVoiceHz: find('rumble')?.lowestVoiceHz ?? null,
  };
}

/** A sound through a chain, in time with itself. */
function through(chain: Chain | LiveChain, sound: Float32Array): Float32Array {
  const late = chain.latencyFrames;
  const out = new Float32Array(sound.length + late);
  out.set(sound);
  for (let at = 0; at < out.length; at += BLOCK_FRAMES) {
    const part = out.subarray(at, at + BLOCK_FRAMES);
    chain.process([part], [part], part.length);
  }
  return out.subarray(late);
}

const BLOCK_FRAMES = 4096;

/** Peaks that press against a level without being flat are those of a compressor before, not of this gain. */
const flatTops = (clipping: Extract<FindingFacts, { kind: 'clipping' }> | null): number =>
  clipping?.shape === 'hard' ? clipping.count : 0;
