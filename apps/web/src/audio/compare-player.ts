/** From one side to the other within this: without a click, and no slower than an ear follows. */
const SWITCH_SECONDS = 0.008;
/** Where it repeats, it comes and goes within this. */
const SEAM_SECONDS = 0.01;
/** What is asked for begins so much later, both sides at the same sample. */
const AHEAD_SECONDS = 0.05;

/** Something to be heard, raised so that it is as loud as the others. */
export interface ComparedSound {
  readonly channels: readonly Float32Array[];
  readonly gainDb: number;
}

/** Plays several sounds of one length in step, one of them heard, again and again; goes from one to the other at once. */
export class ComparePlayer {
  #context: AudioContext | null = null;
  #gains: GainNode[] = [];
  #sources: AudioBufferSourceNode[] = [];
  #startedAt = 0;
  #atSeconds = 0;
  #heard = 0;
  readonly #lengthSeconds: number;

  constructor(
    private readonly sounds: readonly ComparedSound[],
    private readonly sampleRateHz: number,
  ) {
    this.#lengthSeconds = sounds[0]!.channels[0]!.length / sampleRateHz;
  }

  get playing(): boolean {
    return this.#sources.length > 0;
  }

  /** Where it plays, in seconds of the sounds. */
  get seconds(): number {
    if (!this.#context || !this.playing) return this.#atSeconds;
    return (this.#atSeconds + Math.max(0, this.#context.currentTime - this.#startedAt)) % this.#lengthSeconds;
  }

  /** From where it was stopped. */
  async play(): Promise<void> {
    if (this.playing) return;
    const context = (this.#context ??= new AudioContext({ sampleRate: this.sampleRateHz, latencyHint: 'interactive' }));
    if (this.#gains.length === 0)
      this.#gains = this.sounds.map((_, i) => {
        const gain = context.createGain();
        gain.gain.value = this.#levelOf(i);
        gain.connect(context.destination);
        return gain;
      });
    this.#startedAt = context.currentTime + AHEAD_SECONDS;
    this.#sources = this.sounds.map((sound, i) => {
      const source = context.createBufferSource();
      source.buffer = this.#bufferOf(context, sound);
      source.loop = true;
      source.connect(this.#gains[i]!);
      source.start(this.#startedAt, this.#atSeconds);
      return source;
    });
    await context.resume();
  }

  stop(): void {
    this.#atSeconds = this.seconds;
    for (const source of this.#sources) source.stop();
    this.#sources = [];
  }

  hear(index: number): void {
    this.#heard = index;
    const now = this.#context?.currentTime ?? 0;
    this.#gains.forEach(({ gain }, i) => {
      gain.cancelScheduledValues(now);
      gain.setValueAtTime(gain.value, now);
      gain.linearRampToValueAtTime(this.#levelOf(i), now + SWITCH_SECONDS);
    });
  }

  close(): void {
    this.stop();
    void this.#context?.close().catch(() => undefined);
    this.#context = null;
    this.#gains = [];
  }

  #levelOf(index: number): number {
    return index === this.#heard ? 10 ** (this.sounds[index]!.gainDb / 20) : 0;
  }

  #bufferOf(context: AudioContext, { channels }: ComparedSound): AudioBuffer {
    const frames = channels[0]!.length;
    const buffer = context.createBuffer(channels.length, frames, this.sampleRateHz);
    const seam = Math.min(Math.round(SEAM_SECONDS * this.sampleRateHz), frames >> 1);
    channels.forEach((samples, c) => {
      const own = Float32Array.from(samples);
      for (let n = 0; n < seam; n++) {
        own[n]! *= n / seam;
        own[frames - 1 - n]! *= n / seam;
      }
      buffer.copyToChannel(own, c);
    });
    return buffer;
  }
}
