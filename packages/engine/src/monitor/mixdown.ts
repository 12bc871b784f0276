import { createBlock, type ChainSpec, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import type { Levels } from '../arrangement/levels.js';
import { LevelFader } from './level-fader.js';
import type { SampleStore } from './sample-store.js';
import type { Timeline } from './timeline.js';
import { QUANTUM_FRAMES } from './voice.js';
import type { Voices } from './voices.js';
import { Whole } from './whole.js';

/**
 * What is made of a track's chain, quantum by quantum: its clips' levels, the sum with the other tracks, the chain on the
 * whole. Another mix or another whole waits until the monitor starts anew at a place, so that nothing clicks.
 */
export class Mixdown {
  dry: PlanarBlock;
  own: PlanarBlock;
  mix: PlanarBlock;
  readonly levels: LevelFader;
  readonly #others: Float32Array[];
  /** The other tracks, mixed; null when this one is heard by itself. */
  #rest: SampleStore | null = null;
  #whole: Whole;
  #nextRest: SampleStore | null = null;
  #nextWhole: Whole | null = null;

  constructor(
    private readonly context: Omit<ProcessorContext, 'noiseProfile'>,
    private readonly timeline: Timeline,
    fadeStep: number,
    levels: Levels | null,
  ) {
    this.#others = createBlock(context.channels, QUANTUM_FRAMES);
    this.dry = this.own = this.mix = this.#others;
    this.#whole = new Whole(context, { treatments: [] });
    this.levels = new LevelFader(context.channels, fadeStep, levels);
  }

  /** By how much the chain on the whole is late. */
  get latencyFrames(): number {
    return this.#whole.latencyFrames;
  }

  /** Nothing is done to the whole. */
  get plain(): boolean {
    return this.#whole.plain;
  }

  /** True when the monitor must start anew for it. */
  setRest(rest: SampleStore | null): boolean {
    this.#nextRest = rest;
    return rest !== this.#rest;
  }

  /** Values move in place. True when the monitor must start anew for it. */
  setWhole(spec: ChainSpec): boolean {
    if (!this.#nextWhole && this.#whole.setParameters(spec)) return false;
    this.#nextWhole = new Whole(this.context, spec);
    return true;
  }

  /** Everything from its beginning, with what was set meanwhile. */
  start(): void {
    this.#rest = this.#nextRest;
    this.#whole = this.#nextWhole ?? this.#whole;
    this.#nextWhole = null;
    this.#whole.reset();
  }

  /** Makes the quantum at a position: `dry`, `own` and `mix` are aligned, late by `latencyFrames`. False, and nothing moved, when samples are missing. */
  advance(position: number, voices: Voices): boolean {
    if (this.#rest && !this.timeline.read(position, this.#others, QUANTUM_FRAMES, this.#rest)) return false;
    if (!voices.sounding.run(QUANTUM_FRAMES)) return false;
    const own = voices.blend();
    const { dry } = voices;
    this.levels.apply(own, this.timeline, position, QUANTUM_FRAMES);
    let mix = own;
    if (this.#rest) {
      mix = this.#others;
      for (let c = 0; c < mix.length; c++) for (let n = 0; n < QUANTUM_FRAMES; n++) mix[c]![n]! += own[c]![n]!;
    }
    const whole = this.#whole;
    if (!whole.plain) whole.process(dry, own, mix);
    this.dry = whole.plain ? dry : whole.dry;
    this.own = whole.plain ? own : whole.own;
    this.mix = whole.plain ? mix : whole.mix;
    return true;
  }
}
