import type { TakeGap } from '@euphonos/contracts';
import type { MicrophoneChannel, SoundIn } from './protocol.js';

/** A stamp that is off by more than this says that something is missing: stamps jitter by less than a millisecond. */
const MISSING_SECONDS = 0.004;

/**
 * Makes one line of frames of what a device gives: the channel that is recorded, counted, sample by sample as it came. Where the device's
 * own clock says that something is missing, that is known; nothing is put in its place.
 */
export class Intake {
  frames = 0;
  lostFrames = 0;
  #clock: { readonly atMicroseconds: number; readonly frame: number } | null = null;

  constructor(
    private readonly sampleRateHz: number,
    private readonly channel: MicrophoneChannel,
  ) {}

  /** How many channels are recorded. */
  get channels(): number {
    return this.channel === 'both' ? 2 : 1;
  }

  /** @returns the frames that follow, and the hole before them, if there is one */
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

  #gapBefore(atMicroseconds: number | undefined): TakeGap | null {
    if (atMicroseconds === undefined) return null;
    const clock = this.#clock;
    if (!clock) {
      this.#clock = { atMicroseconds, frame: this.frames };
      return null;
    }
    const expected = clock.frame + ((atMicroseconds - clock.atMicroseconds) * this.sampleRateHz) / 1e6;
    const missing = Math.round(expected - this.frames);
    // The two clocks drift apart slowly: what is counted holds, and the stamp is looked at anew.
    if (Math.abs(missing) < MISSING_SECONDS * this.sampleRateHz) {
      if (atMicroseconds - clock.atMicroseconds > 2e6) this.#clock = { atMicroseconds, frame: this.frames };
      return null;
    }
    this.#clock = { atMicroseconds, frame: this.frames };
    return missing > 0 ? { frame: this.frames, frames: missing } : null;
  }
}
