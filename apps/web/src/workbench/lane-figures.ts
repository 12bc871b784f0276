import type { ChainSpec, NoiseProfile } from '@euphonos/dsp';
import type { Lane, Span } from '@euphonos/engine';
import type { TrackSound } from '../audio/arranged.js';
import type { Figures } from '../passage/passage.js';
import { laneGains, NO_GAINS } from './lane-gains.js';
import { sameSpan } from './same-sound.js';

/** What figures are of: clips through a chain, with what is known of the noise, in a span. */
export interface FiguresOf {
  readonly chain: ChainSpec;
  readonly sound: TrackSound;
  readonly profile: NoiseProfile | null;
  readonly span: Span;
}

/** Figures of what is heard, and of what was heard before: each of it comes as loud as the others at once. */
export class LaneFigures {
  now: Figures | null = null;
  equalLoudness = false;
  readonly #known = new WeakMap<ChainSpec, FiguresOf & { readonly figures: Figures }>();

  /** What each lane is raised by, so that it is as loud as the source. */
  get gainsDb(): Readonly<Record<Lane, number>> {
    return this.equalLoudness && this.now ? laneGains(this.now) : NO_GAINS;
  }

  /** null where it was not measured. */
  known({ chain, sound, profile, span }: FiguresOf): Figures | null {
    const known = this.#known.get(chain);
    return known && known.sound === sound && known.profile === profile && sameSpan(known.span, span) ? known.figures : null;
  }

  measured(of: FiguresOf, figures: Figures): void {
    this.now = figures;
    this.#known.set(of.chain, { ...of, figures });
  }
}
