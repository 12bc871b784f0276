import { Listening, type Listen, type ListenState } from '@euphonos/dsp';
import type { StartTake } from '@euphonos/contracts';
import { Intake } from './intake.js';
import type { LeftTake, MicrophoneChannel, RecorderCommand, RecorderReport, SoundIn, TakeReport } from './protocol.js';
import { interleave, Ring } from './ring.js';
import type { TakeLine } from './take-sender.js';
import type { KeptFacts, OpenTake, TakeStore } from './take-store.js';
import { TakeWriter } from './take-writer.js';

/** What is recorded is written this often: no more than that is lost when everything is killed. */
const WRITE_SECONDS = 0.2;
const REPORT_SECONDS = 0.1;
export const PRE_ROLL_SECONDS = 10;

/** Takes what a microphone gives: levels, listens, takes. Knows nothing of browsers but through what it is given. */
export class Recorder {
  #personId = '';
  #intake: Intake | null = null;
  #sampleRateHz = 48_000;
  #ring: Ring | null = null;
  #listening: Listening | null = null;
  #parts: Float32Array[] = [];
  readonly #heard = new Map<Listen, Float32Array>();
  #writer: TakeWriter | null = null;
  /** Those that are ended and not all sent, and of earlier pages. */
  readonly #sending = new Map<string, TakeWriter>();
  readonly #left = new Map<string, { readonly file: OpenTake; readonly facts: KeptFacts }>();
  /** Done with here: what is found of them is on its way to be removed. */
  readonly #settled = new Set<string>();
  #pending: Float32Array[] = [];
  #pendingFrames = 0;
  /** Where the take begins that is recorded, in frames of what comes in. */
  #takeFrom = 0;
  #meter = { squares: 0, peak: 0, count: 0 };

  /** @param store null where this machine keeps nothing: then what is recorded is only sent. */
  constructor(
    private readonly store: TakeStore | null,
    private readonly line: TakeLine,
    private readonly tell: (report: RecorderReport) => void,
  ) {}

  /** Whoever is here now; '' where there are no accounts. What others left is let go of. */
  async setPerson(personId: string): Promise<void> {
    if (personId !== this.#personId) {
      for (const { file } of this.#left.values()) file.close();
      this.#left.clear();
    }
    this.#personId = personId;
    await this.lookBack();
  }

  /** What earlier pages left: what was ended is sent on, what was not is told. To be asked again: another window may leave one later. */
  async lookBack(): Promise<void> {
    for (const { id, facts } of (await this.store?.list().catch(() => [])) ?? []) {
      if (this.#sending.has(id) || this.#left.has(id) || this.#settled.has(id) || this.#writer?.take.id === id) continue;
      // What somebody else recorded here waits until they are here again.
      if (facts.personId && facts.personId !== this.#personId) continue;
      // Another window records it.
      const file = await this.store!.open(id).catch(() => null);
      if (!file) continue;
      // Somebody else may be here by now.
      if (facts.personId && facts.personId !== this.#personId) file.close();
      else if (facts.endedFrames !== null) this.#send(new TakeWriter(facts.take, file, this.line, this.#onTake, facts));
      else this.#left.set(id, { file, facts });
    }
    this.#tellLeft();
  }

  #tellLeft(): void {
    const takes = [...this.#left].map(([id, { file, facts }]): LeftTake => ({
      id,
      name: facts.take.name,
      frames: Math.floor(file.samples / facts.take.channels),
      sampleRateHz: facts.take.sampleRateHz,
      startedAt: facts.startedAt,
    }));
    this.tell({ type: 'left', takes });
  }

  async command(command: Exclude<RecorderCommand, { type: 'source' | 'source-gone' | 'person' }>): Promise<void> {
    switch (command.type) {
      case 'listen':
        this.#parts = [];
        this.#listening = command.listen && new Listening(command.listen, this.#sampleRateHz, command.floorDbfs);
        return;
      case 'heard': {
        const heard: Partial<Record<Listen, Float32Array>> = {};
        for (const listen of command.listens) if (this.#heard.has(listen)) heard[listen] = this.#heard.get(listen)!;
        return this.tell({ type: 'heard', heard });
      }
      case 'start':
        return this.#start(command.take, command.preRollSeconds);
      case 'mark':
        return this.#writer?.mark(command.kind);
      case 'stop':
        return this.stop();
      case 'finish':
        return this.#finish(command.id);
      case 'forget':
        return this.#forget(command.id);
      case 'close':
        for (const { file } of this.#left.values()) file.close();
        return this.#left.clear();
    }
  }

  /** Another device, or the same with other channels. What was recorded is ended with the old one. */
  setSource(sampleRateHz: number, channel: MicrophoneChannel): void {
    this.stop();
    this.#sampleRateHz = sampleRateHz;
    this.#intake = new Intake(sampleRateHz, channel);
    this.#ring = new Ring(Math.round(PRE_ROLL_SECONDS * sampleRateHz), this.#intake.channels);
    this.#listening = null;
  }

  /** The device is gone: what was recorded is kept. */
  sourceGone(): void {
    this.stop();
    this.#intake = null;
    this.#listening = null;
    this.tell({ type: 'source-ended' });
  }

  take(sound: SoundIn): void {
    const intake = this.#intake;
    if (!intake || sound.channels.length === 0) return;
    const { sound: channels, gap } = intake.take(sound);
    const interleaved = interleave(channels);
    this.#ring!.push(interleaved);
    if (this.#writer) {
      if (gap && gap.frame >= this.#takeFrom) this.#writer.gap({ ...gap, frame: gap.frame - this.#takeFrom });
      this.#pending.push(interleaved);
      this.#pendingFrames += channels[0]!.length;
      if (this.#pendingFrames >= WRITE_SECONDS * this.#sampleRateHz) this.#write();
    }
    this.#listen(channels[0]!);
    this.#measure(channels);
  }

  #write(): void {
    if (this.#pendingFrames === 0) return;
    const samples = joined(this.#pending);
    this.#pending = [];
    this.#pendingFrames = 0;
    this.#writer?.append(samples);
  }

  #listen(sound: Float32Array): void {
    const listening = this.#listening;
    if (!listening) return;
    this.#parts.push(sound.slice());
    listening.process(sound);
    const { state, listen } = listening;
    if (!state.enough) return;
    this.#heard.set(listen, joined(this.#parts).slice(Math.max(0, state.fromFrame)));
    this.#listening = null;
    this.#parts = [];
    this.tell({ type: 'listen', listen, state });
  }

  #measure(channels: readonly Float32Array[]): void {
    const meter = this.#meter;
    for (const samples of channels)
      for (let n = 0; n < samples.length; n++) {
        const x = samples[n]!;
        meter.squares += x * x;
        if (x > meter.peak) meter.peak = x;
        else if (-x > meter.peak) meter.peak = -x;
      }
    meter.count += channels[0]!.length * channels.length;
    if (meter.count < REPORT_SECONDS * this.#sampleRateHz * channels.length) return;
    this.tell({
      type: 'meter',
      meter: {
        rmsDbfs: 10 * Math.log10(meter.squares / meter.count + 1e-14),
        peakDbfs: 20 * Math.log10(meter.peak + 1e-7),
        clipped: meter.peak >= 0.999,
        frames: this.#intake!.frames,
        lostFrames: this.#intake!.lostFrames,
      },
    });
    this.#meter = { squares: 0, peak: 0, count: 0 };
    if (this.#listening) this.tell({ type: 'listen', listen: this.#listening.listen, state: this.#listening.state satisfies ListenState });
  }

  async #start(take: Omit<StartTake, 'preRollFrames' | 'sampleRateHz' | 'channels'>, preRollSeconds: number): Promise<void> {
    this.stop();
    const intake = this.#intake;
    if (!intake) return;
    // What comes while the file is opened is in the ring: nothing is lost between the key and the file.
    const pressedAt = intake.frames;
    const { file, problem } = await this.#open(take.id);
    const before = this.#ring!.latest(Math.round(preRollSeconds * this.#sampleRateHz) + intake.frames - pressedAt);
    const frames = before.length / intake.channels;
    const full: StartTake = {
      ...take,
      sampleRateHz: this.#sampleRateHz,
      channels: intake.channels,
      preRollFrames: Math.max(0, frames - (intake.frames - pressedAt)),
    };
    this.#takeFrom = intake.frames - frames;
    this.#writer = new TakeWriter(full, file, this.line, this.#onTake, { personId: this.#personId }, problem);
    if (before.length > 0) this.#writer.append(before);
  }

  async #open(id: string): Promise<{ file: OpenTake | null; problem: string | null }> {
    if (!this.store)
      return {
        file: null,
        problem: 'This browser keeps nothing on this machine: it is sent to the server, and held in memory until it is there.',
      };
    try {
      return { file: await this.store.open(id), problem: null };
    } catch (error) {
      return { file: null, problem: `This machine does not keep it (${(error as Error).message}): it is sent to the server.` };
    }
  }

  stop(): void {
    this.#write();
    const writer = this.#writer;
    this.#writer = null;
    if (!writer) return;
    this.#sending.set(writer.take.id, writer);
    writer.end();
  }

  #send(writer: TakeWriter): void {
    this.#sending.set(writer.take.id, writer);
    this.tell({ type: 'take', take: writer.report });
  }

  readonly #onTake = (take: TakeReport): void => {
    this.tell({ type: 'take', take });
    const writer = this.#sending.get(take.id);
    if (!writer?.done) return;
    // It is on the server, in a session: this machine need not keep it.
    this.#sending.delete(take.id);
    this.#settled.add(take.id);
    writer.close();
    void this.store?.remove(take.id);
  };

  #finish(id: string): void {
    const left = this.#left.get(id);
    if (!left) return;
    this.#left.delete(id);
    const { file, facts } = left;
    const endedFrames = Math.floor(file.samples / facts.take.channels);
    this.#send(new TakeWriter(facts.take, file, this.line, this.#onTake, { ...facts, endedFrames }));
    this.#tellLeft();
  }

  async #forget(id: string): Promise<void> {
    const left = this.#left.get(id);
    if (!left) return;
    this.#left.delete(id);
    this.#settled.add(id);
    left.file.close();
    await this.store?.remove(id);
    await this.line.drop(id).catch(() => undefined);
    this.#tellLeft();
  }
}

function joined(parts: readonly Float32Array[]): Float32Array {
  const whole = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}
