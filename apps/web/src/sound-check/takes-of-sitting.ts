import type { TakeView } from '@euphonos/contracts';
import type { TakeFigures } from '@euphonos/dsp';
import { takeDifference } from '@euphonos/engine';
import { changeTake, getTake, takeSamples } from '../api/takes.js';
import type { TakeReport } from '../recorder/protocol.js';
import type { TakeLine } from './desk-state.js';

const POLL_MS = 500;
/** Longer ones are judged by their beginning. */
const MOST_JUDGED_SECONDS = 180;

/** Measures a sound; null when hardly anybody talks in it. */
type Measure = (sampleRateHz: number, sound: Float32Array) => Promise<TakeFigures | null>;

/** The takes of a sitting, the latest first: what the recorder says of them, and what became of them on the server. */
export class TakesOfSitting {
  #lines: readonly TakeLine[] = [];
  readonly #waited = new Set<string>();
  #closed = false;

  constructor(
    private readonly measure: Measure,
    private readonly onChange: (lines: readonly TakeLine[]) => void,
  ) {}

  take(report: TakeReport): void {
    if (report.state === 'done' && report.frames === 0) return this.#set(this.#lines.filter((line) => line.report.id !== report.id));
    const known = this.#lines.some((line) => line.report.id === report.id);
    this.#set(
      known
        ? this.#lines.map((line) => (line.report.id === report.id ? { ...line, report } : line))
        : [{ report, view: null, difference: null }, ...this.#lines],
    );
    if (report.state === 'done' && !this.#waited.has(report.id)) {
      this.#waited.add(report.id);
      void this.#follow(report.id);
    }
  }

  close(): void {
    this.#closed = true;
  }

  #set(lines: readonly TakeLine[]): void {
    this.#lines = lines;
    if (!this.#closed) this.onChange(lines);
  }

  #know(view: TakeView, difference?: string | null): void {
    this.#set(
      this.#lines.map((line) =>
        line.report.id === view.id ? { ...line, view, difference: difference === undefined ? line.difference : difference } : line,
      ),
    );
  }

  /** Until it is in its session; then it is measured and held against the one before. */
  async #follow(id: string): Promise<void> {
    while (!this.#closed) {
      const view = await getTake(id).catch(() => null);
      if (view) this.#know(view);
      if (view?.state === 'landed') return this.#judge(view).catch(() => undefined);
      await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    }
  }

  async #judge(view: TakeView): Promise<void> {
    const sound = await takeSamples(view.recordingId!, Math.min(view.frames, MOST_JUDGED_SECONDS * view.sampleRateHz));
    const figures = await this.measure(view.sampleRateHz, sound);
    if (!figures) return;
    const judged = await changeTake(view.id, { figures });
    const before = this.#lines.filter(({ view: other }) => other?.figures && other.number < judged.number)[0]?.view;
    this.#know(judged, before?.figures ? (takeDifference(before.figures, figures) ?? '') : null);
  }
}
