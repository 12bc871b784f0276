import type { ProcessorContext } from '../../processor.js';
import { SpectralProcessor } from '../../spectrum/spectral-processor.js';
import { frameSizeFor } from '../../spectrum/window.js';
import { dbToGain } from '../../units.js';
import { defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';

const parameters = {
  decaySeconds: {
    title: 'Decay',
    unit: 's',
    min: 0.2,
    max: 3,
    default: 0.6,
    step: 0.05,
    practice: [0.4, 1.2],
    scale: 'log',
    sentence: 'How long this room takes to fall by 60 dB: what the survey estimates.',
  },
  reductionDb: {
    title: 'Reduction',
    unit: 'dB',
    min: 0,
    max: 24,
    default: 9,
    step: 0.5,
    practice: [4, 10],
    scale: 'linear',
    sentence: 'The most that late sound is lowered. It makes a room smaller, not dry: too much sounds hollow.',
  },
  lateMs: {
    title: 'Late from',
    unit: 'ms',
    min: 32,
    max: 120,
    default: 48,
    step: 1,
    practice: [40, 60],
    scale: 'linear',
    finer: true,
    sentence: 'What comes this long after the sound itself counts as room.',
  },
} as const;

type Values = ParameterValues<typeof parameters>;

const RING_FRAMES = 16;
/** Averaging time of the power spectrum, Habets 2009 section III; short against the decay, long against a frame. */
const POWER_MS = 40;
/** The gain may close this fast: what opens opens at once, so that a consonant after a vowel is kept. */
const CLOSING_MS = 25;

/**
 * Late reverberation lowered by spectral subtraction: with an exponential decay of 60 dB in T, the power of what is
 * late by t is that of the sound t before, times e^(-2δt), δ = 3 ln 10 / T (Lebart, Boucher & Denbigh 2001, eq. 10
 * and 14; Habets 2009). Early reflections stay, and so does a room's colour.
 */
class Room extends SpectralProcessor implements TreatmentProcessor<typeof parameters> {
  readonly #smooth: Float32Array[];
  readonly #gain: Float32Array;
  readonly #powerShare: number;
  readonly #closingShare: number;
  readonly #sampleRateHz: number;
  #lateFrames = 1;
  #lateShare = 0;
  #floor = 1;

  constructor(context: ProcessorContext, values: Values) {
    super(context, frameSizeFor(context.sampleRateHz));
    this.#sampleRateHz = context.sampleRateHz;
    this.#smooth = Array.from({ length: RING_FRAMES }, () => new Float32Array(this.bins));
    this.#gain = new Float32Array(this.bins).fill(1);
    const share = (ms: number): number => 1 - Math.exp(-this.hop / ((ms / 1000) * context.sampleRateHz));
    this.#powerShare = share(POWER_MS);
    this.#closingShare = share(CLOSING_MS);
    this.setParameters(values);
  }

  setParameters({ decaySeconds, reductionDb, lateMs }: Values): boolean {
    const lateSeconds = lateMs / 1000;
    this.#lateFrames = Math.max(1, Math.min(RING_FRAMES - 1, Math.round((lateSeconds * this.#sampleRateHz) / this.hop)));
    this.#lateShare = Math.exp((-6 * Math.LN10 * lateSeconds) / decaySeconds);
    this.#floor = dbToGain(-reductionDb);
    return true;
  }

  protected forget(): void {
    for (const power of this.#smooth) power.fill(0);
    this.#gain.fill(1);
  }

  protected frameArrived(power: Float32Array, index: number): void {
    const now = this.#smooth[index % RING_FRAMES]!;
    const last = this.#smooth[(index + RING_FRAMES - 1) % RING_FRAMES]!;
    const late = this.#smooth[(index + RING_FRAMES - this.#lateFrames) % RING_FRAMES]!;
    const [share, lateShare, floor, closing, gain] = [this.#powerShare, this.#lateShare, this.#floor, this.#closingShare, this.#gain];
    const { bins } = this;
    for (let k = 0; k < bins; k++) {
      const smooth = last[k]! + share * (power[k]! - last[k]!) + 1e-20;
      now[k] = smooth;
      const before = gain[k]!;
      const wanted = Math.max(floor, 1 - Math.sqrt((late[k]! * lateShare) / smooth));
      gain[k] = wanted > before ? wanted : before + closing * (wanted - before);
    }
  }

  protected gainsOf(gain: Float32Array): boolean {
    if (this.#floor === 1) return false;
    gain.set(this.#gain);
    return true;
  }
}

export const room = defineTreatment({
  kind: 'room',
  title: 'Room',
  sentence: 'Lowers the late tail of a room behind the words. It makes a room smaller, never dry.',
  parameters,
  needsNoiseProfile: false,
  summary: (values) => `decay ${values.decaySeconds} s · up to ${values.reductionDb} dB`,
  create: (context, values) => new Room(context, values),
  live: { note: 'A room is told from what comes after a word: it is heard in what was recorded.' },
});
