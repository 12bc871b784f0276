import { gainToDb, LoudnessMeter, powerToDb, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';

/** What can be listened to: what came in, what is taken out, what remains. */
export type Lane = 'source' | 'removed' | 'result';
export const lanes: readonly Lane[] = ['source', 'removed', 'result'];

/** Time of a change from lane to lane. */
const SWITCH_SECONDS = 0.006;
/** Averaging time of the RMS meter. */
const RMS_SECONDS = 0.3;

export interface MeterReading {
  /** Largest sample since the last reading, dBFS. */
  readonly peakDbfs: number;
  readonly rmsDbfs: number;
  readonly momentaryLufs: number;
  readonly shortTermLufs: number;
}

/** Mixes the lane that is heard, with a short crossfade from lane to lane, and meters it. */
export class LaneMixer {
  #lane: Lane = 'result';
  #gains: Readonly<Record<Lane, number>> = { source: 1, removed: 1, result: 1 };
  readonly #now = { source: 0, removed: 0, result: 1 };
  readonly #step: number;
  readonly #rmsShare: number;
  #channels: number;
  #loudness: LoudnessMeter;
  #peak = 0;
  #power = 0;

  constructor(private readonly context: Omit<ProcessorContext, 'noiseProfile'>) {
    const { sampleRateHz, channels, kernels } = context;
    this.#channels = channels;
    this.#step = 1 / (SWITCH_SECONDS * sampleRateHz);
    this.#rmsShare = 1 - Math.exp(-1 / (RMS_SECONDS * sampleRateHz));
    this.#loudness = new LoudnessMeter(kernels, sampleRateHz, channels);
  }

  /** How many channels are mixed and metered from now on. */
  setChannels(channels: number): void {
    if (channels === this.#channels) return;
    this.#channels = channels;
    this.#loudness = new LoudnessMeter(this.context.kernels, this.context.sampleRateHz, channels);
  }

  setLane(lane: Lane): void {
    this.#lane = lane;
  }

  setGains(gains: Readonly<Record<Lane, number>>): void {
    this.#gains = gains;
  }

  /**
   * dry: the source. wet: what the track makes of it. removed = dry - wet. mix: the result, with other tracks and what is done to the whole.
   * A single channel sounds on all of the output's.
   */
  process(dry: PlanarBlock, wet: PlanarBlock, mix: PlanarBlock, output: PlanarBlock, frames: number): void {
    const now = this.#now;
    const channels = Math.min(this.#channels, output.length);
    const goal = (lane: Lane): number => (lane === this.#lane ? this.#gains[lane] : 0);
    const source = goal('source'),
      removed = goal('removed'),
      result = goal('result');
    for (let n = 0; n < frames; n++) {
      now.source = towards(now.source, source, this.#step);
      now.removed = towards(now.removed, removed, this.#step);
      now.result = towards(now.result, result, this.#step);
      let square = 0;
      for (let c = 0; c < channels; c++) {
        const d = (dry[c] ?? dry[0]!)[n]!;
        const w = (wet[c] ?? wet[0]!)[n]!;
        const y = now.source * d + now.removed * (d - w) + now.result * mix[c]![n]!;
        output[c]![n] = y;
        square += y * y;
        if (y > this.#peak) this.#peak = y;
        else if (-y > this.#peak) this.#peak = -y;
      }
      this.#power += this.#rmsShare * (square / channels - this.#power) + 1e-30;
    }
    this.#loudness.process(output, frames);
    for (let c = channels; c < output.length; c++) output[c]!.set(output[0]!);
  }

  /** The meters of what is heard; starts a new peak. */
  read(): MeterReading {
    const reading = {
      peakDbfs: gainToDb(this.#peak),
      rmsDbfs: powerToDb(this.#power),
      momentaryLufs: this.#loudness.momentaryLufs,
      shortTermLufs: this.#loudness.shortTermLufs,
    };
    this.#peak = 0;
    return reading;
  }
}

const towards = (value: number, goal: number, step: number): number =>
  value < goal ? Math.min(goal, value + step) : Math.max(goal, value - step);
