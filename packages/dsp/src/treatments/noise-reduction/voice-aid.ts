import type { KernelModule } from '../../kernels/instance.js';
import { RealFft } from '../../kernels/real-fft.js';
import { Suppressor, SUPPRESSOR_DELAY, SUPPRESSOR_FRAME } from '../../kernels/suppressor.js';
import { analysisWindow } from '../../spectrum/window.js';

/** The network was trained at 48 kHz; a voice at 44.1 kHz is a tone and a half higher to it, which it does not mind. */
const RATES_HZ = [44100, 48000] as const;

/** Whether the network can listen at this rate. */
export const canAid = (sampleRateHz: number): boolean => sampleRateHz >= RATES_HZ[0] && sampleRateHz <= RATES_HZ[1];

/**
 * What a suppressor network takes for voice, as power spectra in step with the frames that are weighed. It needs no more
 * latency than the two frames that the speech model looks ahead: its own delay lies within them. White noise it takes for
 * voice at times, so it has a say only as far as the speech model hears somebody (kernels/noise-reduction.ts).
 */
export class VoiceAid {
  readonly #suppressor: Suppressor;
  readonly #fft: RealFft;
  readonly #window: Float32Array;
  readonly #in = new Float32Array(SUPPRESSOR_FRAME);
  readonly #voice: Float32Array;
  /** Samples in the frame that is filled, and how many came in and out in all. */
  #fill = 0;
  #heard = 0;
  #made = 0;

  /** @param lookAheadFrames how much older than the newest sample the end of a weighed frame is. */
  constructor(
    kernels: KernelModule,
    private readonly size: number,
    private readonly lookAheadFrames: number,
  ) {
    this.#suppressor = new Suppressor(kernels);
    this.#fft = new RealFft(kernels, size);
    this.#window = analysisWindow(size);
    this.#voice = new Float32Array(size + lookAheadFrames + SUPPRESSOR_FRAME);
  }

  reset(): void {
    this.#suppressor.reset();
    this.#voice.fill(0);
    this.#fill = this.#heard = this.#made = 0;
  }

  /** Hears samples [from, from + count). */
  listen(samples: Float32Array, from: number, count: number): void {
    this.#heard += count;
    for (let n = 0; n < count; n++) {
      this.#in[this.#fill++] = samples[from + n]!;
      if (this.#fill < SUPPRESSOR_FRAME) continue;
      this.#fill = 0;
      this.#suppressor.process(this.#in);
      this.#voice.copyWithin(0, SUPPRESSOR_FRAME);
      this.#voice.set(this.#in, this.#voice.length - SUPPRESSOR_FRAME);
      this.#made += SUPPRESSOR_FRAME;
    }
  }

  /** Writes the power of the voice in the frame that is weighed now: the one that ends `lookAheadFrames` before the newest sample. */
  writePower(into: Float32Array): void {
    const start = this.#voice.length - (this.#made - (this.#heard - this.lookAheadFrames - this.size + SUPPRESSOR_DELAY));
    const { frame, re, im } = this.#fft;
    for (let n = 0; n < this.size; n++) frame[n] = this.#voice[start + n]! * this.#window[n]!;
    this.#fft.forward();
    for (let k = 0; k <= this.size / 2; k++) into[k] = re[k]! * re[k]! + im[k]! * im[k]!;
  }
}
