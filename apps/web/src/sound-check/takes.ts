import type { TakeMarkKind } from '@euphonos/contracts';
import { loadKernels } from '../audio/kernels.js';
import type { KernelModule } from '@euphonos/dsp';
import type { LeftTake, TakeReport } from '../recorder/protocol.js';
import type { DeskParts } from './desk-parts.js';
import { leftOnServer, settleOnServer } from './left-takes.js';
import { takeOf } from './take-of.js';
import { TakesOfSitting } from './takes-of-sitting.js';

const COUNT_FROM = 3;
const COUNT_MS = 800;

/** The takes of a desk: begun, marked, ended, followed into their session; and what earlier pages left. */
export class Takes {
  readonly #sittingId = crypto.randomUUID();
  readonly #lines: TakesOfSitting;

  constructor(
    private readonly desk: DeskParts,
    private readonly profileId: () => string | null,
  ) {
    this.#lines = new TakesOfSitting(
      async (sampleRateHz, sound) => desk.compute.figures((await loadKernels()) as KernelModule, sampleRateHz, sound),
      (takes) => desk.set({ takes }),
    );
  }

  /** Begins a take, after the count where one is wished; or ends the one that runs, or the count. */
  async record(): Promise<void> {
    const { recording, counting, countIn } = this.desk.state();
    const microphone = this.desk.microphone();
    if (recording) return this.stop();
    if (counting !== null) return this.desk.set({ counting: null });
    if (!microphone) return;
    microphone.perform('talk');
    if (countIn && !(await this.#count())) return;
    this.desk.set({ counting: null });
    this.desk.tellRecorder({ type: 'start', ...takeOf(this.desk.state(), this.#sittingId, this.profileId()) });
  }

  /** False when it was broken off. */
  async #count(): Promise<boolean> {
    const microphone = this.desk.microphone()!;
    for (let left = COUNT_FROM; left > 0; left--) {
      this.desk.set({ counting: left });
      microphone.tick(left === 1);
      await new Promise((resolve) => setTimeout(resolve, COUNT_MS));
      if (microphone !== this.desk.microphone() || this.desk.state().counting === null) return false;
    }
    return true;
  }

  stop(): void {
    this.desk.set({ counting: null });
    this.desk.tellRecorder({ type: 'stop' });
    this.desk.microphone()?.perform('silence');
  }

  mark(kind: TakeMarkKind): void {
    if (this.desk.state().recording) this.desk.tellRecorder({ type: 'mark', kind });
  }

  /** What the recorder says of one. */
  reported(take: TakeReport): void {
    this.#lines.take(take);
    const { recording } = this.desk.state();
    if (take.state === 'recording') this.desk.set({ recording: take });
    else if (recording?.id === take.id) this.desk.set({ recording: null });
  }

  /** What earlier pages left: on this machine, and what only the server has. */
  found(left: readonly LeftTake[]): void {
    // What the server alone has is asked for again; until it answers, that is what it was.
    const before = this.desk.state().left.filter(({ id, onServer }) => onServer && !left.some((one) => one.id === id));
    this.desk.set({ left: [...left, ...before] });
    void leftOnServer(left).then((more) => this.desk.set({ left: [...left, ...more] }));
  }

  /** Brings what was left into a session, or throws it away. */
  settleLeft(take: LeftTake, keep: boolean): void {
    if (!take.onServer) return this.desk.tellRecorder({ type: keep ? 'finish' : 'forget', id: take.id });
    void settleOnServer(take, keep).then(
      () => {
        const left = this.desk.state().left.filter(({ id }) => id !== take.id);
        this.desk.set({ left });
        this.found(left.filter(({ onServer }) => !onServer));
      },
      (error: Error) => this.desk.set({ problem: error.message }),
    );
  }

  close(): void {
    if (this.desk.state().recording) this.stop();
    this.#lines.close();
  }
}
