import { LimiterKernel } from '../../kernels/peak-kernels.js';
import type { Memory } from '../../memory.js';
import type { PlanarBlock, ProcessorContext, TreatmentEvent } from '../../processor.js';
import { dbToGain, gainToDb, msToFrames } from '../../units.js';
import { defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';

const parameters = {
  ceilingDbtp: {
    title: 'Ceiling',
    unit: 'dBTP',
    min: -12,
    max: 0,
    default: -1,
    step: 0.1,
    practice: [-3, -1],
    scale: 'linear',
    sentence: 'No peak comes out above it, also between the samples.',
  },
  driveDb: {
    title: 'Drive',
    unit: 'dB',
    min: 0,
    max: 18,
    default: 0,
    step: 0.1,
    practice: [0, 4],
    scale: 'linear',
    finer: true,
    sentence: 'Gain before it: how far everything is pushed against the ceiling.',
  },
  releaseMs: {
    title: 'Release',
    unit: 'ms',
    min: 10,
    max: 300,
    default: 50,
    step: 5,
    practice: [30, 100],
    scale: 'log',
    finer: true,
    sentence: 'How fast the gain comes back after a single peak; where peak follows peak it comes back up to ten times as slowly.',
  },
} as const;

type LimiterValues = ParameterValues<typeof parameters>;

const LOOK_AHEAD_MS = 5;
/** On a microphone that is heard at once. */
const LIVE_LOOK_AHEAD_MS = 1;
/** Where peak follows peak, the gain comes back so many times as slowly. */
const DENSE_TIMES = 10;
/** What there was to limit lately is forgotten over so long. */
const LATELY_MS = 800;
/** A place begins where the gain falls by so much, and ends where half of that has come back. */
const TOLD = dbToGain(-0.3);

/** True-peak limiter with a look-ahead, the same gain on every channel, told place by place. */
class Limiter implements TreatmentProcessor<typeof parameters> {
  readonly latencyFrames: number;
  readonly #rate: number;
  readonly #create: () => LimiterKernel;
  readonly #onEvent: ((event: TreatmentEvent) => void) | undefined;
  #kernel: LimiterKernel;
  #values: LimiterValues;
  /** The frame of the recording that comes out next. */
  #frame: number;
  readonly #firstFrame: number;
  #nowDb = 0;
  /** The place that is going on, with the gain that it fell from. */
  #place: { startFrame: number; from: number; least: number } | null = null;
  /** Where the gain began to fall last, and from where; as far as it has come back since. */
  #fallFrame = 0;
  #top = 1;

  constructor(
    { sampleRateHz, channels, kernels, startFrame = 0, onEvent }: ProcessorContext,
    values: LimiterValues,
    lookAheadMs: number = LOOK_AHEAD_MS,
  ) {
    const reachFrames = Math.max(8, msToFrames(lookAheadMs, sampleRateHz));
    this.#rate = sampleRateHz;
    this.#create = () => new LimiterKernel(kernels, reachFrames, channels);
    this.#kernel = this.#create();
    this.latencyFrames = this.#kernel.latencyFrames;
    this.#onEvent = onEvent;
    this.#firstFrame = startFrame - this.latencyFrames;
    this.#frame = this.#fallFrame = this.#firstFrame;
    this.#values = values;
  }

  setParameters(values: LimiterValues): boolean {
    this.#values = values;
    return true;
  }

  reset(): void {
    this.#kernel = this.#create();
    this.#frame = this.#firstFrame;
    this.#place = null;
    this.#top = 1;
    this.#fallFrame = this.#firstFrame;
  }

  locate(frame: number): void {
    this.#frame = frame - this.latencyFrames;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const { ceilingDbtp, driveDb, releaseMs } = this.#values;
    const share = (ms: number): number => 1 - Math.exp(-1000 / (ms * this.#rate));
    this.#kernel.process(input, output, frames, {
      gain: dbToGain(driveDb),
      ceiling: dbToGain(ceilingDbtp),
      releaseShare: share(releaseMs),
      denseShare: share(DENSE_TIMES * releaseMs),
      latelyShare: share(LATELY_MS),
    });
    if (this.#onEvent) this.#tell(frames);
    this.#nowDb = gainToDb(this.#kernel.gains[frames - 1]!);
    this.#frame += frames;
  }

  #tell(frames: number): void {
    const { gains } = this.#kernel;
    for (let n = 0; n < frames; n++) {
      const gain = gains[n]!;
      const frame = this.#frame + n;
      const place = this.#place;
      if (place) {
        place.least = Math.min(place.least, gain);
        if (gain * gain > place.least * place.from) this.#end(frame);
      } else if (gain >= this.#top) {
        this.#top = gain;
        this.#fallFrame = frame;
      } else if (gain < TOLD * this.#top) this.#place = { startFrame: this.#fallFrame, from: this.#top, least: gain };
    }
  }

  #end(endFrame: number): void {
    const { startFrame, least } = this.#place!;
    this.#place = null;
    this.#top = least;
    this.#fallFrame = endFrame;
    this.#onEvent!({ kind: 'peak', channel: 0, startFrame, endFrame, amountDb: -gainToDb(least) });
  }

  get nowDb(): number {
    return this.#nowDb;
  }

  remember(memory: Memory): void {
    this.#kernel.remember(memory);
  }
}

export const limiter = defineTreatment({
  kind: 'limiter',
  title: 'Limiter',
  sentence: 'Holds every peak under a ceiling, and touches nothing else. Belongs at the end.',
  parameters,
  remembers: true,
  needsNoiseProfile: false,
  summary: ({ ceilingDbtp, driveDb }) => `${ceilingDbtp} dBTP${driveDb > 0 ? ` · driven by ${driveDb} dB` : ''}`,
  create: (context, values) => new Limiter(context, values),
  live: {
    create: (context, values) => new Limiter(context, values, LIVE_LOOK_AHEAD_MS),
    note: 'It hears 1 ms ahead instead of 5: peaks are held as surely, a little less smoothly.',
  },
});
