import { lanes, noiseSpans, type Span } from '@euphonos/engine';
import { useEffect, useRef, type CSSProperties, type ReactNode } from 'react';
import { activeTrack } from '../../store/session-slice.js';
import { useApp } from '../../store/store.js';
import { useFrameLoop } from '../../workbench/use-frame-loop.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { Mended } from './mended.js';
import { Strip } from './strip.js';
import { useStripGestures } from './use-strip-gestures.js';
import { useView } from './use-view.js';

const HATCH = 'repeating-linear-gradient(135deg, color-mix(in srgb, var(--removed) 32%, transparent) 0 1px, transparent 1px 7px)';

/** Strips over each other on one time axis, with selection, loop, noise passage and playhead running through all of them. */
export function StripsFrame({ children }: { readonly children: ReactNode }) {
  const workbench = useWorkbench();
  const ref = useRef<HTMLDivElement>(null);
  const gestures = useStripGestures(ref);
  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => workbench.view.resize(entry!.contentRect.width));
    observer.observe(ref.current!);
    return () => observer.disconnect();
  }, [workbench]);
  return (
    <div ref={ref} {...gestures} data-strips className="relative flex min-h-0 grow touch-none flex-col gap-2 select-none">
      {children}
      <Spans />
      <Playhead />
    </div>
  );
}

/** What it was, what is taken out, what remains. */
export function Strips() {
  return (
    <StripsFrame>
      {lanes.map((lane) => (
        <Strip key={lane} lane={lane} />
      ))}
      <Mended />
    </StripsFrame>
  );
}

export function Spans() {
  const { view, places } = useWorkbench();
  const selection = useApp(({ listening }) => listening.selection);
  const looping = useApp(({ listening }) => listening.looping);
  const track = useApp(({ session }) => activeTrack(session));
  useView(view);
  const place = ({ startFrame, endFrame }: Span): CSSProperties => {
    // Held near the view: browsers lose precision at widths of millions of pixels.
    const left = Math.max(-50, Math.min(view.widthPx + 50, view.pxAt(startFrame)));
    const right = Math.max(-50, Math.min(view.widthPx + 50, view.pxAt(endFrame)));
    return { left, width: Math.max(0, right - left) };
  };
  return (
    <div aria-hidden className="pointer-events-none absolute inset-0 overflow-hidden">
      {track &&
        noiseSpans(track)
          .flatMap((span) => places.of(span))
          .map((span) => (
            <i
              key={span.startFrame}
              data-noise-passage
              className="absolute inset-y-0 border-x border-dashed border-removed"
              style={{ ...place(span), backgroundImage: HATCH }}
            />
          ))}
      {track?.loop && (
        <i className={`absolute inset-y-0 border-x ${looping ? 'border-ink bg-ink/7' : 'border-soft/60'}`} style={place(track.loop)} />
      )}
      {selection && <i className="absolute inset-y-0 border-x border-focus bg-focus/15" style={place(selection)} />}
    </div>
  );
}

export function Playhead() {
  const { player, view } = useWorkbench();
  const ref = useRef<HTMLElement>(null);
  const before = useRef(0);
  useFrameLoop(() => {
    const frame = player.frame;
    if (player.status === 'playing') view.follow(frame, before.current);
    before.current = frame;
    const px = view.pxAt(frame);
    const element = ref.current!;
    element.style.transform = `translateX(${px.toFixed(1)}px)`;
    element.style.visibility = px < 0 || px > view.widthPx ? 'hidden' : 'visible';
  });
  return <i ref={ref} aria-hidden data-playhead className="pointer-events-none absolute inset-y-0 left-0 -ml-px w-[2px] bg-focus" />;
}
