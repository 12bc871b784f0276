import { createBlock, type PlanarBlock } from '@euphonos/dsp';
import { QUANTUM_FRAMES, type Voice } from './voice.js';

/** The chain that sounds, and the one that is on its way to take over: it catches up unheard, and is crossfaded to. */
export class Voices {
  #voice: Voice;
  #next: Voice | null = null;
  #crossfade = 0;
  readonly #wet: Float32Array[];
  readonly #dry: Float32Array[];
  /** The source in line with what `blend` answered last. */
  dry: PlanarBlock;

  constructor(
    channels: number,
    private readonly fadeStep: number,
    voice: Voice,
  ) {
    this.#wet = createBlock(channels, QUANTUM_FRAMES);
    this.#dry = createBlock(channels, QUANTUM_FRAMES);
    this.dry = this.#dry;
    this.#voice = voice;
  }

  get sounding(): Voice {
    return this.#voice;
  }

  get newest(): Voice {
    return this.#next ?? this.#voice;
  }

  /** Something is on its way to take over. */
  get changing(): boolean {
    return this.#next !== null;
  }

  /** A voice instead of all others, at once. */
  replace(voice: Voice): void {
    this.#voice = voice;
    this.#next = null;
    this.#crossfade = 0;
  }

  /** A voice that takes over when it has caught up. */
  follow(voice: Voice): void {
    if (this.#next && this.#crossfade > 0) this.#voice = this.#next;
    this.#next = voice;
    this.#crossfade = 0;
  }

  /** Works on the voice that is not heard yet. */
  chase(position: number, quanta: number): void {
    // While it crossfades, it makes one quantum a turn, in `blend`.
    if (!this.#next || this.#crossfade > 0) return;
    if (this.#next.catchUp(position, quanta)) this.#crossfade = this.fadeStep;
  }

  /** The chain's output of this quantum, or the crossfade from one chain to the next. */
  blend(): PlanarBlock {
    const next = this.#next;
    this.dry = this.#voice.dry;
    if (!next || this.#crossfade === 0 || !next.run(QUANTUM_FRAMES)) return this.#voice.out;
    const start = this.#crossfade;
    this.#mix(this.#voice.out, next.out, this.#wet, start);
    this.#mix(this.#voice.dry, next.dry, this.#dry, start);
    this.dry = this.#dry;
    this.#crossfade = start + QUANTUM_FRAMES * this.fadeStep;
    if (this.#crossfade >= 1) this.replace(next);
    return this.#wet;
  }

  #mix(from: PlanarBlock, to: PlanarBlock, into: PlanarBlock, start: number): void {
    for (let c = 0; c < into.length; c++) {
      for (let n = 0; n < QUANTUM_FRAMES; n++) {
        const share = Math.min(1, start + n * this.fadeStep);
        into[c]![n] = from[c]![n]! + (to[c]![n]! - from[c]![n]!) * share;
      }
    }
  }
}
