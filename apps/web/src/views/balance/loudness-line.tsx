import { useCallback } from 'react';
import { Canvas, type Draw } from '../../drawing/canvas.js';
import { pageColour } from '../../drawing/inks.js';
import { formatNumber } from '../../components/figures.js';
import { useFrameLoop } from '../../workbench/use-frame-loop.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import type { MixLoudness } from '../../passage/balance-levels.js';
import { PEAK_STEP_SECONDS } from '../../passage/peak-steps.js';
import { useRef, type PointerEvent } from 'react';

const TOP_LUFS = -6;
const BOTTOM_LUFS = -48;
const LINES = [-12, -24, -36];
/** The first value stands for the first three seconds; then ten a second. */
const FIRST_SECONDS = 3;
const STEP_SECONDS = 0.1;

interface Props {
  readonly loudness: MixLoudness | null;
  readonly target: { readonly lufs: number; readonly toleranceLu: number } | null;
  readonly ceilingDbtp: number;
  readonly lengthSeconds: number;
}

/** Short-term loudness of the mix over the session, before and after, with the target's band and the playhead; a click goes there. */
export function LoudnessLine({ loudness, target, ceilingDbtp, lengthSeconds }: Props) {
  const { player, sampleRateHz } = useWorkbench();
  const head = useRef<HTMLElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const draw = useCallback<Draw>(
    (pen, width, height) => {
      pen.clearRect(0, 0, width, height);
      const y = (lufs: number): number =>
        (height * (TOP_LUFS - Math.max(BOTTOM_LUFS, Math.min(TOP_LUFS, lufs)))) / (TOP_LUFS - BOTTOM_LUFS);
      if (target) {
        pen.globalAlpha = 0.6;
        pen.fillStyle = pageColour('practice');
        pen.fillRect(
          0,
          y(target.lufs + target.toleranceLu),
          width,
          y(target.lufs - target.toleranceLu) - y(target.lufs + target.toleranceLu),
        );
        pen.globalAlpha = 1;
      }
      pen.font = '12px "Source Sans 3 Variable", sans-serif';
      for (const lufs of LINES) {
        pen.fillStyle = pageColour('faint');
        pen.fillRect(0, Math.round(y(lufs)), width, 1);
        pen.fillStyle = pageColour('soft');
        pen.fillText(formatNumber(lufs, 0), width - 26, y(lufs) - 3);
      }
      const line = (values: readonly number[], colour: string, thick: number): void => {
        pen.strokeStyle = colour;
        pen.lineWidth = thick;
        pen.beginPath();
        let on = false;
        const every = Math.max(1, Math.floor(values.length / width));
        for (let i = 0; i < values.length; i += every) {
          const lufs = values[i]!;
          const x = (width * (FIRST_SECONDS / 2 + i * STEP_SECONDS)) / lengthSeconds;
          if (lufs < -70) on = false;
          else if (on) pen.lineTo(x, y(lufs));
          else pen.moveTo(x, y(lufs));
          if (lufs >= -70) on = true;
        }
        pen.stroke();
      };
      if (loudness) {
        line(loudness.before, pageColour('source'), 1);
        line(loudness.after, pageColour('result'), 1.8);
        // Where a peak is over the ceiling.
        pen.fillStyle = pageColour('removed');
        loudness.peaksDbtp.forEach((dbtp, i) => {
          if (dbtp > ceilingDbtp) pen.fillRect(Math.round((width * i * PEAK_STEP_SECONDS) / lengthSeconds), 0, 2, 8);
        });
      }
    },
    [loudness, target, ceilingDbtp, lengthSeconds],
  );
  useFrameLoop(() => {
    if (head.current) head.current.style.left = `${(100 * player.frame) / (lengthSeconds * sampleRateHz)}%`;
  });
  const seek = (event: PointerEvent<HTMLDivElement>): void => {
    const { left, width } = box.current!.getBoundingClientRect();
    player.seek(Math.round(((event.clientX - left) / width) * lengthSeconds * sampleRateHz));
  };
  return (
    <div
      ref={box}
      data-loudness={loudness ? 'ready' : 'coming'}
      className="relative h-full min-h-[90px] border-y border-line"
      onPointerDown={seek}
    >
      <Canvas draw={draw} label="Short-term loudness of the mix over time, before and after" />
      <i ref={head} aria-hidden className="pointer-events-none absolute inset-y-0 w-[1.5px] bg-focus" />
    </div>
  );
}
