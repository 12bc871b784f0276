import type { ChainPrice, Span } from '@euphonos/engine';
import type { Effects, Spectra } from '../passage/figures-computer.js';
import type { Passage } from '../passage/passage.js';

/** What is measured of a span after its figures, since it takes longer: what each treatment does; and, while somebody watches, spectra and price. */
export class Details {
  /** Of the track's chain, and of the clip's that is looked at. */
  effects: Effects | null = null;
  #whole: Effects = [];
  spectra: Spectra | null = null;
  price: ChainPrice | null = null;
  #spectraWatchers = 0;
  #priceWatchers = 0;
  #clip: string | null = null;

  constructor(
    private readonly passage: Passage,
    /** Somebody watches what nobody watched before. */
    private readonly onWatched: () => void,
    private readonly onChange: () => void,
  ) {}

  /** All that is known of treatments, that of the whole included. */
  get all(): Effects | null {
    return this.#whole.length > 0 ? [...(this.effects ?? []), ...this.#whole] : this.effects;
  }

  /** What the chain on the whole does. */
  setWhole(effects: Effects): void {
    this.#whole = effects;
    this.onChange();
  }

  /** The clip whose own chain is looked at; null for none. */
  watchClip(clipId: string | null): void {
    if (clipId === this.#clip) return;
    this.#clip = clipId;
    if (clipId !== null) this.onWatched();
  }

  /** From now on spectra are computed, until the returned function is called. */
  readonly watchSpectra = (): (() => void) => {
    if (++this.#spectraWatchers === 1) this.onWatched();
    return () => void this.#spectraWatchers--;
  };

  /** From now on the price is computed, until the returned function is called. */
  readonly watchPrice = (): (() => void) => {
    if (++this.#priceWatchers === 1) this.onWatched();
    return () => void this.#priceWatchers--;
  };

  clear(): void {
    this.effects = null;
    this.spectra = null;
    this.price = null;
  }

  /** Measures a span, one after the other; what comes when it is no longer `current` is not taken. */
  async measure(span: Span, current: () => boolean): Promise<void> {
    const effects = await this.passage.effects(span);
    if (!current()) return;
    this.effects = effects;
    this.onChange();
    if (this.#clip !== null) {
      const own = await this.passage.clipEffects(this.#clip);
      if (!current()) return;
      this.effects = [...effects, ...own];
      this.onChange();
    }
    if (this.#priceWatchers > 0) {
      const price = await this.passage.price(span);
      if (!current()) return;
      this.price = price;
      this.onChange();
    }
    if (this.#spectraWatchers === 0) return;
    const spectra = await this.passage.spectra(span);
    if (!current()) return;
    this.spectra = spectra;
    this.onChange();
  }
}
