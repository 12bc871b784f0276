import type { EndTake, StartTake, TakeGap, TakeMark, TakeMarkKind } from '@euphonos/contracts';
import type { TakeReport } from './protocol.js';
import { TakeSender, type TakeLine } from './take-sender.js';
import type { KeptFacts, OpenTake } from './take-store.js';

/** What is not on this machine's disk may be held in memory so long, in samples: some minutes. */
const MOST_HELD_SAMPLES = 48_000 * 600;

/** One take while it is recorded: on this machine's disk and on the server, each as soon as it can be. */
export class TakeWriter {
  readonly #sender: TakeSender;
  readonly #marks: TakeMark[];
  readonly #gaps: TakeGap[];
  /** Samples that could not be kept on the disk, from where it ends there. */
  #held: Float32Array[] = [];
  #heldSamples = 0;
  #samples: number;
  #ended: EndTake | null = null;
  #keepProblem: string | null;

  /** @param file null where this machine keeps none; a take that is there already goes on being sent. */
  constructor(
    readonly take: StartTake,
    private readonly file: OpenTake | null,
    line: TakeLine,
    private readonly onChange: (report: TakeReport) => void,
    known: Partial<KeptFacts> = {},
    problem: string | null = null,
  ) {
    this.#personId = known.personId ?? '';
    this.#samples = file ? file.samples - (file.samples % take.channels) : 0;
    this.#marks = [...(known.marks ?? [])];
    this.#gaps = [...(known.gaps ?? [])];
    this.#keepProblem = problem;
    this.#startedAt = known.startedAt ?? new Date().toISOString();
    this.#sender = new TakeSender(
      () => ({ take, frames: this.frames, read: (from, frames) => this.#read(from, frames), end: this.#ended }),
      line,
      () => this.onChange(this.report),
    );
    if (known.endedFrames != null) this.#ended = this.#endOf(known.endedFrames);
    this.#keepFacts();
    this.#sender.wake();
  }

  readonly #startedAt: string;
  readonly #personId: string;

  get frames(): number {
    return this.#samples / this.take.channels;
  }

  /** Frames that follow, interleaved. */
  append(samples: Float32Array): void {
    if (this.#ended) return;
    this.#samples += samples.length;
    if (this.#held.length > 0 || !this.file) this.#hold(samples);
    else
      try {
        this.file.append(samples);
      } catch (error) {
        this.#keepProblem = `This machine does not keep it: ${wordsOf(error)} It is sent to the server, and held in memory until it is there.`;
        this.#hold(samples);
      }
    this.#letGo();
    this.#sender.wake();
    this.onChange(this.report);
  }

  mark(kind: TakeMarkKind): void {
    this.#marks.push({ kind, frame: Math.max(0, this.frames - 1) });
    this.#keepFacts();
    this.onChange(this.report);
  }

  /** Something is missing there. */
  gap(gap: TakeGap): void {
    this.#gaps.push(gap);
    this.#keepFacts();
  }

  end(): void {
    if (this.#ended) return;
    this.#ended = this.#endOf(this.frames);
    this.#keepFacts();
    this.#sender.wake();
    this.onChange(this.report);
  }

  close(): void {
    this.#sender.close();
    this.file?.close();
  }

  get done(): boolean {
    return this.#sender.done;
  }

  get report(): TakeReport {
    const { id, name, sampleRateHz, preRollFrames, channels } = this.take;
    return {
      id,
      name,
      sampleRateHz,
      preRollFrames,
      frames: this.frames,
      marks: this.#marks,
      gaps: this.#gaps,
      keptFrames: this.file ? this.file.samples / channels : 0,
      sentFrames: this.#sender.sentFrames,
      state: this.#sender.done ? 'done' : this.#ended ? 'sending' : 'recording',
      keepProblem: this.#keepProblem,
      sendProblem: this.#sender.problem,
    };
  }

  #endOf(frames: number): EndTake {
    return { frames, marks: this.#marks, gaps: this.#gaps };
  }

  #hold(samples: Float32Array): void {
    this.#held.push(samples.slice());
    this.#heldSamples += samples.length;
  }

  /** What the server has need not be held. */
  #letGo(): void {
    const sent = this.#sender.sentFrames * this.take.channels;
    while (this.#held.length > 0 && (this.#heldFrom + this.#held[0]!.length <= sent || this.#heldSamples > MOST_HELD_SAMPLES)) {
      const gone = this.#held.shift()!;
      this.#heldSamples -= gone.length;
    }
  }

  /** Where what is held begins, in samples of the take. */
  get #heldFrom(): number {
    return this.#samples - this.#heldSamples;
  }

  #read(fromFrame: number, frames: number): Float32Array {
    const { channels } = this.take;
    const [from, count] = [fromFrame * channels, frames * channels];
    const onDisk = this.file?.samples ?? 0;
    if (from < onDisk) return this.file!.read(from, Math.min(count, onDisk - from));
    const out = new Float32Array(Math.min(count, this.#samples - from));
    let at = this.#heldFrom;
    for (const part of this.#held) {
      const start = Math.max(from, at);
      const end = Math.min(from + out.length, at + part.length);
      if (start < end) out.set(part.subarray(start - at, end - at), start - from);
      at += part.length;
    }
    return out;
  }

  #keepFacts(): void {
    try {
      this.file?.keepFacts({
        take: this.take,
        personId: this.#personId,
        startedAt: this.#startedAt,
        marks: this.#marks,
        gaps: this.#gaps,
        endedFrames: this.#ended?.frames ?? null,
      });
    } catch (error) {
      this.#keepProblem = `This machine does not keep it: ${wordsOf(error)}`;
    }
  }
}

const wordsOf = (error: unknown): string =>
  (error as DOMException).name === 'QuotaExceededError'
    ? 'its disk, or what this browser may use of it, is full.'
    : `${(error as Error).message || 'its disk cannot be written'}.`.replace(/\.\.$/, '.');
