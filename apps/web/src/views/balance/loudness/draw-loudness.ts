import { COURSE_STEP_SECONDS } from '@euphonos/dsp';
import { PEAK_STEP_SECONDS, type RulePlace } from '@euphonos/engine';
import type { Draw } from '../../../drawing/canvas.js';
import { pageColour } from '../../../drawing/inks.js';
import { formatNumber } from '../../../components/figures.js';
import type { LiveTrail } from './live-trail.js';
import type { Line } from './measures.js';

const TOP_LUFS = -6;
const BOTTOM_LUFS = -48;
const GRID_LUFS = [-12, -24, -36];
/** Softer than this there is nothing to draw. */
const SILENT_LUFS = -70;

/** What is shown, in seconds of the session. */
export interface Window {
  readonly fromSeconds: number;
  readonly toSeconds: number;
}
export interface Course {
  readonly before: Line;
  readonly after: Line;
  /** Integrated so far, of the result; null where it is the line itself. */
  readonly soFar: Line | null;
  readonly places: readonly RulePlace[];
}
type Pen = CanvasRenderingContext2D;

const yOf = (height: number, lufs: number): number =>
  (height * (TOP_LUFS - Math.max(BOTTOM_LUFS, Math.min(TOP_LUFS, lufs)))) / (TOP_LUFS - BOTTOM_LUFS);
const xOf = (width: number, seconds: number, { fromSeconds, toSeconds }: Window): number =>
  (width * (seconds - fromSeconds)) / (toSeconds - fromSeconds);

function drawLine(pen: Pen, width: number, height: number, { values, firstSeconds }: Line, window: Window): void {
  pen.beginPath();
  let on = false;
  const first = Math.max(0, Math.floor((window.fromSeconds - firstSeconds) / COURSE_STEP_SECONDS));
  const end = Math.min(values.length, Math.ceil((window.toSeconds - firstSeconds) / COURSE_STEP_SECONDS) + 1);
  const every = Math.max(1, Math.floor((end - first) / width));
  for (let i = first; i < end; i += every) {
    const lufs = values[i]!;
    const [x, y] = [xOf(width, firstSeconds + i * COURSE_STEP_SECONDS, window), yOf(height, lufs)];
    if (lufs >= SILENT_LUFS) (on ? pen.lineTo : pen.moveTo).call(pen, x, y);
    on = lufs >= SILENT_LUFS;
  }
  pen.stroke();
}

/** Target's band, grid, both lines, and marks where a rule is broken. */
export const drawCourse =
  (course: Course | null, target: { readonly lufs: number; readonly toleranceLu: number } | null, window: Window): Draw =>
  (pen, width, height) => {
    pen.clearRect(0, 0, width, height);
    if (target) {
      const [top, bottom] = [yOf(height, target.lufs + target.toleranceLu), yOf(height, target.lufs - target.toleranceLu)];
      pen.globalAlpha = 0.6;
      pen.fillStyle = pageColour('practice');
      pen.fillRect(0, top, width, bottom - top);
      pen.globalAlpha = 1;
    }
    pen.font = '12px "Source Sans 3 Variable", sans-serif';
    for (const lufs of GRID_LUFS) {
      pen.fillStyle = pageColour('faint');
      pen.fillRect(0, Math.round(yOf(height, lufs)), width, 1);
      pen.fillStyle = pageColour('soft');
      pen.fillText(formatNumber(lufs, 0), width - 26, yOf(height, lufs) - 3);
    }
    if (!course) return;
    pen.strokeStyle = pageColour('source');
    pen.lineWidth = 1;
    drawLine(pen, width, height, course.before, window);
    if (course.soFar) {
      pen.strokeStyle = pageColour('result');
      pen.setLineDash([2, 4]);
      drawLine(pen, width, height, course.soFar, window);
      pen.setLineDash([]);
    }
    pen.strokeStyle = pageColour('result');
    pen.lineWidth = 1.8;
    drawLine(pen, width, height, course.after, window);
    pen.fillStyle = pageColour('removed');
    for (const { rule, atSeconds, seconds } of course.places) {
      const x = Math.round(xOf(width, atSeconds, window));
      if (rule === 'loud') pen.fillRect(x, 0, Math.max(2, xOf(width, atSeconds + seconds, window) - x), 2);
      // A tick for every step with a peak: where they are dense, they read as one.
      else for (let at = 0; at < seconds; at += PEAK_STEP_SECONDS) pen.fillRect(Math.round(xOf(width, atSeconds + at, window)), 0, 2, 8);
    }
  };

/** What was heard. */
export const drawTrail =
  (trail: LiveTrail, window: Window): Draw =>
  (pen, width, height) => {
    pen.clearRect(0, 0, width, height);
    pen.strokeStyle = pageColour('focus');
    pen.lineWidth = 1.5;
    for (const run of trail.runs) {
      pen.beginPath();
      for (const [at, lufs] of run) pen.lineTo(xOf(width, at, window), yOf(height, lufs));
      pen.stroke();
    }
  };
