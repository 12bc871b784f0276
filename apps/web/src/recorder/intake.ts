import type { TakeGap } from '@euphonos/contracts';
import type { MicrophoneChannel, SoundIn } from './protocol.js';

/** Stamps that stay ahead of what is counted by so much say that something is missing … */
const MISSING_SECONDS = 0.004;
/** … for so long: on a busy machine a stamp comes late, and the next ones are right again. */
const STAYS_SECONDS = 1;

/**
 * Makes one line of frames of what a device gives: the channel that is recorded, counted, sample by sample as it came. Where the device's
 * own clock says that something is missing, that is known; nothing is put in its place.
 */
export class Intake {
  frames = 0;
  lostFrames = 0;
  /** How far the device's clock is ahead of what is counted, in frames: where it usually is, and lately. */
  #usual: number | null = null;
  readonly #lately: { readonly frame: number; readonly ahead: number }[] = [];

  constructor(
    private readonly sampleRateHz: number,
    private readonly channel: MicrophoneChannel,
  ) {}

  /** How many channels are recorded. */
  get channels(): number {
    return this.channel === 'both' ? 2 : 1;
  }

  /** @returns the frames that follow, and a hole that was found, which lies up to a second back */
  take({ channels, atMicroseconds }: SoundIn): { readonly sound: readonly Float32Array[]; readonly gap: TakeGap | null } {
    const sound = this.#pick(channels);
    const gap = this.#gapBefore(atMicroseconds);
    this.frames += sound[0]!.length;
    this.lostFrames += gap?.frames ?? 0;
    return { sound, gap };
  }

  #pick(channels: readonly Float32Array[]): readonly Float32Array[] {
    const [first] = channels as [Float32Array];
    if (this.channel === 'both') return [first, channels[1] ?? first];
    return [this.channel === 'second' ? (channels[1] ?? first) : first];
  }

  /** The hole that is known by now: it lies where the clock began to be ahead. */
  #gapBefore(atMicroseconds: number | undefined): TakeGap | null {
    if (atMicroseconds === undefined) return null;
    const lately = this.#lately;
    lately.push({ frame: this.frames, ahead: (atMicroseconds * this.sampleRateHz) / 1e6 - this.frames });
    if (lately[0]!.frame > this.frames - STAYS_SECONDS * this.sampleRateHz) return null;
    const least = lately.reduce((min, { ahead }) => Math.min(min, ahead), Infinity);
    const { frame } = lately.shift()!;
    const missing = Math.round(least - (this.#usual ?? least));
    this.#usual = least;
    return missing >= MISSING_SECONDS * this.sampleRateHz ? { frame, frames: missing } : null;
  }
}
