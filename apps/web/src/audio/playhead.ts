import type { Span } from '@euphonos/engine';
import { movedOn } from './moved-on.js';
import type { MonitorReport } from './protocol.js';

/** What meters show while nothing plays. */
export const SILENT = { peakDbfs: -Infinity, rmsDbfs: -Infinity, momentaryLufs: -Infinity, shortTermLufs: -Infinity };
const NO_REPORT: MonitorReport = {
  status: 'stopped',
  frame: 0,
  contextSeconds: 0,
  meters: SILENT,
  plays: 0,
  awaited: 0,
  speed: 1,
  exact: true,
  leaving: false,
};

/** Where the monitor is, as far as its reports tell: they come late, and may be of a place that it was told to leave. */
export class Playhead {
  #report = NO_REPORT;
  /** Play commands sent to the node that sounds. */
  #plays = 0;
  /** Where it plays on once the monitor has heard of it. */
  #awaitedFrame = 0;

  get status(): MonitorReport['status'] {
    return this.#report.status;
  }

  get meters(): MonitorReport['meters'] {
    return this.#report.meters;
  }

  get awaited(): number {
    return this.#report.awaited;
  }

  /** The last report is about what was asked for last. */
  get upToDate(): boolean {
    return this.#report.plays === this.#plays && !this.#report.leaving;
  }

  /** What sounds is what a render makes of it; null while that is not known. */
  get exact(): boolean | null {
    return this.upToDate && this.#report.status === 'playing' ? this.#report.exact : null;
  }

  /** The frame that is heard now: the last report, moved on by the audio clock. */
  frame(context: Pick<AudioContext, 'currentTime' | 'outputLatency'>, sampleRateHz: number, loop: Span | null): number {
    if (!this.upToDate) return this.#awaitedFrame;
    if (this.#report.status !== 'playing') return this.#report.frame;
    const late = context.currentTime - (context.outputLatency || 0) - this.#report.contextSeconds;
    return movedOn(this.#report.frame, late, sampleRateHz * this.#report.speed, loop);
  }

  /** A report has come; returns whether it is of what was asked for last. */
  take(report: MonitorReport): boolean {
    this.#report = report;
    return this.upToDate;
  }

  /** It will play on from here; `sent` when the node was told to. */
  await(frame: number, sent: boolean): void {
    if (sent) this.#plays++;
    this.#awaitedFrame = frame;
  }

  /** The node is gone. */
  reset(): void {
    this.#report = NO_REPORT;
    this.#plays = 0;
  }
}
