import {
  createBlock,
  judgeNoisePassage,
  LevelMeter,
  LoudnessMeter,
  MAX_BLOCK_FRAMES,
  meanSpectrumDb,
  type ChainSpec,
  type KernelModule,
  type NoiseJudgement,
  type NoiseProfile,
  type PlanarBlock,
  withoutDeep,
} from '@euphonos/dsp';
import {
  clipProfile,
  comparedRun,
  CHUNK_FRAMES,
  Levels,
  measureEffects,
  placedChain,
  priceOf,
  placedProfile,
  profilePassages,
  traceGain,
  type NoisePassageSpan,
  type ChainPrice,
  type GainTrace,
  type Lane,
  type Span,
  type TreatmentEffect,
} from '@euphonos/engine';
import { ArrangedReader, type TrackSound } from '../audio/arranged.js';
import { RecordingReader, type SampleSource } from '../audio/samples.js';
import { leadFrames } from './lead.js';

/** Figures are taken of no more than this, so that they follow a control within about a second. */
export const MOST_MEASURED_SECONDS = 60;

export interface LaneFigures {
  readonly integratedLufs: number | null;
  readonly noiseFloorDbfs: number | null;
  readonly rmsDbfs: number | null;
}

/** What each treatment of the chain does. */
export type Effects = readonly TreatmentEffect[];

/** Long-term spectra: level by bin, dBFS. */
export interface Spectra {
  readonly binHz: number;
  readonly source: Float32Array;
  readonly result: Float32Array;
  /** Of what lies between the words, finer: for lines. */
  readonly gaps: { readonly binHz: number; readonly source: Float32Array; readonly result: Float32Array };
}

const SPECTRUM_SIZE = 8192;
const GAP_SPECTRUM_SIZE = 32768;
const GAP_SHARE = 0.2;
const GRID_FRAMES = 2048;

/** Figures of a span of the session: of the clips as they stand, through the chain, as they are heard. Runs in a worker. */
export class FiguresComputer {
  readonly #recording: RecordingReader;
  readonly #reader: ArrangedReader;
  #levels: Levels;
  #spec: ChainSpec = { treatments: [] };
  #placed: ChainSpec = { treatments: [] };
  #profile: NoiseProfile | undefined;
  #placedProfile: NoiseProfile | undefined;

  constructor(
    private readonly source: SampleSource & { readonly sampleRateHz: number },
    private readonly kernels: KernelModule,
  ) {
    this.#recording = new RecordingReader(source);
    this.#reader = new ArrangedReader(source, undefined, this.#recording, kernels);
    this.#levels = this.#levelsNow();
  }

  #levelsNow(): Levels {
    return Levels.of(this.#reader.clips, this.source.lengthFrames, this.source.sampleRateHz);
  }

  get #context() {
    return {
      sampleRateHz: this.source.sampleRateHz,
      channels: this.source.channelCount,
      kernels: this.kernels,
      noiseProfile: this.#placedProfile,
    };
  }

  /** The chain, in times of the recording, and its profile. */
  setChain(spec: ChainSpec, profile: NoiseProfile | undefined): void {
    this.#spec = spec;
    this.#profile = profile;
    this.#placedProfile = profile && placedProfile(profile, this.#reader.clips);
    this.#placed = placedChain(spec, this.#reader.clips, this.source.sampleRateHz);
  }

  setSound(sound: TrackSound): void {
    this.#reader.set(sound);
    this.#levels = this.#levelsNow();
    this.setChain(this.#spec, this.#profile);
  }

  /** @param floorDbfs of the recording, where it is known. */
  async judge(span: Span, floorDbfs: number | null): Promise<NoiseJudgement> {
    return judgeNoisePassage(this.kernels, await this.#reader.read(span.startFrame, span.endFrame), this.source.sampleRateHz, floorDbfs);
  }

  /** The noise of passages of the recording as it comes to the noise reduction of a chain. */
  profile(spans: readonly NoisePassageSpan[], spec: ChainSpec): Promise<NoiseProfile> {
    return profilePassages(this.#context, spec, spans, (start, end) =>
      this.#recording.read(start, Math.min(end, this.source.lengthFrames)),
    );
  }

  /** Loudness and floor of each lane over a span, up to its first minute. */
  async figures(span: Span): Promise<Record<Lane, LaneFigures>> {
    const meters = { source: this.#meters(), removed: this.#meters(), result: this.#meters() };
    const removed = createBlock(this.source.channelCount, MAX_BLOCK_FRAMES);
    await this.#run(span, (source, result, frames) => {
      for (let c = 0; c < removed.length; c++) for (let n = 0; n < frames; n++) removed[c]![n] = source[c]![n]! - result[c]![n]!;
      for (const [lane, block] of [
        ['source', source],
        ['removed', removed],
        ['result', result],
      ] as const)
        for (const meter of meters[lane])
          meter.process(
            block.map((s) => s.subarray(0, frames)),
            frames,
          );
    });
    const read = ([loudness, level]: readonly [LoudnessMeter, LevelMeter]): LaneFigures => ({
      integratedLufs: finite(loudness.integratedLufs),
      noiseFloorDbfs: finite(level.noiseFloorDbfs),
      rmsDbfs: finite(level.rmsDbfs),
    });
    return { source: read(meters.source), removed: read(meters.removed), result: read(meters.result) };
  }

  /** What each treatment does in a span, up to its first minute. */
  async effects(span: Span): Promise<Effects> {
    const { start, samples } = await this.#read(span);
    return measureEffects({ ...this.#context, startFrame: start }, this.#placed, samples, span.startFrame - start);
  }

  /** What each treatment of a clip's own chain does in it, up to its first minute: in the recording as it came. */
  async clipEffects(clipId: string): Promise<Effects> {
    const clip = this.#reader.clips.find(({ id }) => id === clipId);
    if (!clip?.chain) return [];
    const { sampleRateHz, channelCount, lengthFrames } = this.source;
    const chain = withoutDeep(clip.chain);
    const { source } = clip;
    const lead = Math.max(0, source.startFrame - leadFrames(chain, sampleRateHz) - (source.startFrame % GRID_FRAMES));
    const end = Math.min(source.endFrame, source.startFrame + MOST_MEASURED_SECONDS * sampleRateHz);
    const read = (from: number, to: number): Promise<Float32Array[]> => this.#recording.read(from, Math.min(to, lengthFrames));
    const context = { kernels: this.kernels, sampleRateHz, channels: channelCount, startFrame: lead };
    const noiseProfile = await clipProfile({ ...context, noise: this.#reader.sound.noise ?? null }, chain, read, channelCount);
    return measureEffects({ ...context, noiseProfile }, chain, await read(lead, end), source.startFrame - lead);
  }

  /** What one treatment does to the level over the whole track; null when it is not in use. */
  async gainTrace(treatmentId: string): Promise<GainTrace | null> {
    const trace = traceGain({ ...this.#context, startFrame: 0 }, this.#placed, treatmentId);
    if (!trace) return null;
    const end = this.#reader.lengthFrames;
    for (let start = 0; start < end; start += CHUNK_FRAMES) {
      const frames = Math.min(CHUNK_FRAMES, end - start);
      trace.push(await this.#reader.read(start, start + frames), frames);
    }
    return trace.finish();
  }

  /** What the noise reduction takes and costs at every depth, in a span, up to its first minute. */
  async price(span: Span): Promise<ChainPrice | null> {
    const { start, samples } = await this.#read(span);
    return priceOf({ ...this.#context, startFrame: start }, this.#placed, samples, span.startFrame - start);
  }

  /** Mean power spectra (dB) of source and result over a span, up to its first minute. */
  async spectra(span: Span): Promise<Spectra> {
    const length = Math.min(span.endFrame - span.startFrame, MOST_MEASURED_SECONDS * this.source.sampleRateHz);
    const [source, result] = [new Float32Array(length), new Float32Array(length)];
    let at = 0;
    await this.#run(span, (before, after, frames) => {
      source.set(mean(before, frames), at);
      result.set(mean(after, frames), at);
      at += frames;
    });
    const whole = (samples: Float32Array): Float32Array => meanSpectrumDb(this.kernels, samples, SPECTRUM_SIZE);
    const quiet = (samples: Float32Array): Float32Array => meanSpectrumDb(this.kernels, samples, GAP_SPECTRUM_SIZE, GAP_SHARE);
    const rate = this.source.sampleRateHz;
    return {
      binHz: rate / SPECTRUM_SIZE,
      source: whole(source),
      result: whole(result),
      gaps: { binHz: rate / GAP_SPECTRUM_SIZE, source: quiet(source), result: quiet(result) },
    };
  }

  /** A span with what a chain needs to hear before it, up to its first minute. */
  async #read(span: Span): Promise<{ readonly start: number; readonly samples: Float32Array[] }> {
    const start = Math.max(0, span.startFrame - leadFrames(this.#placed, this.source.sampleRateHz) - (span.startFrame % GRID_FRAMES));
    const end = Math.min(span.endFrame, span.startFrame + MOST_MEASURED_SECONDS * this.source.sampleRateHz, this.#reader.lengthFrames);
    return { start, samples: await this.#reader.read(start, Math.max(start, end)) };
  }

  /** Hands over a span, before and after the chain and the clips' levels, block by block. */
  async #run(span: Span, take: (source: PlanarBlock, result: PlanarBlock, frames: number) => void): Promise<void> {
    const { start, samples } = await this.#read(span);
    let at = start;
    const run = comparedRun({ ...this.#context, startFrame: start }, this.#placed, (result, source, frames) => {
      this.#levels.apply(result, 0, at, frames);
      const skip = Math.max(0, Math.min(frames, span.startFrame - at));
      at += frames;
      if (skip < frames)
        take(
          source.map((s) => s.subarray(skip)),
          result.map((s) => s.subarray(skip)),
          frames - skip,
        );
    });
    run.push(samples, samples[0]!.length);
    run.finish();
  }

  #meters(): readonly [LoudnessMeter, LevelMeter] {
    const { sampleRateHz, channels, kernels } = this.#context;
    return [new LoudnessMeter(kernels, sampleRateHz, channels), new LevelMeter(sampleRateHz, channels)];
  }
}

const finite = (value: number | undefined): number | null => (value !== undefined && Number.isFinite(value) ? value : null);

const mean = (channels: PlanarBlock, frames: number): Float32Array =>
  channels[0]!
    .subarray(0, frames)
    .map((x, n) => (channels.length === 1 ? x : channels.reduce((sum, samples) => sum + samples[n]!, 0) / channels.length));
