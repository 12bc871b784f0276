import { createBlock } from '@euphonos/dsp';
import type { SampleStore } from './sample-store.js';
import type { Timeline } from './timeline.js';
import { QUANTUM_FRAMES } from './voice.js';

/** A track that is heard beside the one at work: what its chain made of it, and how loud that is on the left and on the right. */
export interface BesideTrack {
  readonly id: string;
  readonly store: SampleStore;
  readonly channels: number;
  /** Both 0 for one that is not heard. */
  readonly gains: readonly [number, number];
}

interface Sounding {
  track: BesideTrack;
  readonly now: [number, number];
  /** The quantum that is added next. */
  readonly block: Float32Array[];
  /** It is to go, once it has faded out. */
  leaving: boolean;
}

/**
 * The other tracks, summed. What comes, goes, or moves in level does so within milliseconds, without a stop: one whose sound is still
 * rendered comes in when it is there. One that sounds already and runs dry holds everything up, so that nothing is missing unnoticed.
 */
export class Beside {
  readonly #tracks = new Map<string, Sounding>();

  constructor(private readonly fadeStep: number) {}

  /** How many are to be heard and are not there yet. */
  awaited = 0;

  get none(): boolean {
    return this.#tracks.size === 0;
  }

  set(tracks: readonly BesideTrack[]): void {
    const wanted = new Set(tracks.map(({ id }) => id));
    for (const [id, sounding] of this.#tracks) if (!wanted.has(id)) sounding.leaving = true;
    for (const track of tracks) {
      const known = this.#tracks.get(track.id);
      if (!known) this.#tracks.set(track.id, newlySounding(track));
      else if (known.track.store === track.store) Object.assign(known, { track, leaving: false });
      // Another sound of the same track: the old one fades out, the new one comes in when it is there.
      else {
        this.#tracks.delete(track.id);
        if (!silent(known)) this.#tracks.set(`${track.id}/before/${this.#tracks.size}`, { ...known, leaving: true });
        this.#tracks.set(track.id, newlySounding(track));
      }
    }
  }

  /** At a start all sound from their first frame on as loud as they should. */
  start(): void {
    for (const [id, sounding] of this.#tracks) {
      if (sounding.leaving) this.#tracks.delete(id);
      else [sounding.now[0], sounding.now[1]] = sounding.track.gains;
    }
  }

  /** Reads what sounds at a position. False when some of it is not there. */
  ready(position: number, timeline: Timeline): boolean {
    for (const sounding of this.#tracks.values())
      if (!silent(sounding) && !timeline.read(position, sounding.block, QUANTUM_FRAMES, sounding.track.store)) return false;
    return true;
  }

  /** Adds them to `mix` at a position; `ready` must have said so. */
  add(position: number, timeline: Timeline, mix: readonly Float32Array[]): void {
    this.awaited = 0;
    for (const [id, sounding] of this.#tracks) {
      const { track, now, leaving } = sounding;
      const left = leaving ? 0 : track.gains[0];
      const right = leaving ? 0 : track.gains[1];
      if (now[0] === 0 && now[1] === 0 && left === 0 && right === 0) {
        if (leaving) this.#tracks.delete(id);
        continue;
      }
      const { block } = sounding;
      // What sounds already has been read.
      if (silent(sounding) && !timeline.read(position, block, QUANTUM_FRAMES, track.store)) {
        this.awaited++;
        continue;
      }
      for (let c = 0; c < mix.length; c++) {
        const from = block[c] ?? block[0]!;
        const to = mix[c]!;
        const goal = mix.length === 1 ? Math.max(left, right) : c === 0 ? left : right;
        let gain = now[c]!;
        for (let n = 0; n < QUANTUM_FRAMES; n++) {
          gain = gain < goal ? Math.min(goal, gain + this.fadeStep) : Math.max(goal, gain - this.fadeStep);
          to[n]! += gain * from[n]!;
        }
        now[c] = gain;
      }
      if (mix.length === 1) now[1] = now[0]!;
    }
  }
}

const silent = ({ now }: Sounding): boolean => now[0] === 0 && now[1] === 0;

const newlySounding = (track: BesideTrack): Sounding => ({
  track,
  now: [0, 0],
  block: createBlock(track.channels, QUANTUM_FRAMES),
  leaving: false,
});
