import type { ChainSpec, NoiseProfile } from '@euphonos/dsp';
import type { Microphone } from '../microphone/microphone.js';

/** Treats a sound as a render does. */
type Treat = (spec: ChainSpec, profile: NoiseProfile | null, sound: Float32Array) => Promise<Float32Array>;

/** What was just said, over and over, as it came or through the chain. */
export class SpeechLoop {
  #pair: ReturnType<Microphone['playPair']> | null = null;
  #of: ChainSpec | null = null;
  #busy = false;

  constructor(
    private readonly microphone: Microphone,
    private readonly speech: Float32Array,
    private readonly treat: Treat,
    private readonly onChange: (state: { readonly pair: 'before' | 'after' | null; readonly pairBusy: boolean }) => void,
  ) {}

  get playing(): boolean {
    return this.#pair !== null;
  }

  /** `wanted` gives the chain that is set by then: a control that moves while it is treated is heard next. */
  async play(which: 'before' | 'after', wanted: () => ChainSpec, profile: NoiseProfile | null): Promise<void> {
    const chain = wanted();
    if (this.#pair && this.#of === chain) {
      this.#pair.choose(which);
      return this.onChange({ pair: which, pairBusy: false });
    }
    if (this.#busy) return;
    this.#busy = true;
    this.onChange({ pair: this.#pair ? which : null, pairBusy: true });
    const made = await this.treat(chain, profile, this.speech.slice());
    // It was stopped meanwhile.
    if (!this.#busy) return;
    this.#busy = false;
    this.#pair?.stop();
    this.#pair = this.microphone.playPair(this.speech, made);
    this.#of = chain;
    this.#pair.choose(which);
    this.onChange({ pair: which, pairBusy: false });
    if (wanted() !== chain) void this.play(which, wanted, profile);
  }

  stop(): void {
    this.#pair?.stop();
    this.#pair = this.#of = null;
    this.#busy = false;
    this.onChange({ pair: null, pairBusy: false });
  }
}
