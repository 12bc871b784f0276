import type { SpanSeconds } from '@euphonos/dsp';
import { formatTime } from '../../components/figures.js';

interface Props {
  readonly spans: readonly SpanSeconds[];
  readonly seconds: number;
  readonly title: string;
  readonly onLoop: (index: number) => void;
}

const MOST_BUTTONS = 60;

/** Where in the recording something is, as marks on a line; each can be looped. */
export function Where({ spans, seconds, title, onLoop }: Props) {
  const share = (at: number): string => `${((at / seconds) * 100).toFixed(3)}%`;
  return (
    <div className="relative h-[22px] w-full" role="group" aria-label={`Where: ${title}`}>
      <i className="absolute inset-x-0 top-[14px] h-px bg-line" />
      {spans.slice(MOST_BUTTONS).map(({ startSeconds }) => (
        <i
          key={startSeconds}
          aria-hidden
          className="absolute top-[9px] h-[10px] w-px bg-removed/50"
          style={{ left: share(startSeconds) }}
        />
      ))}
      {spans.slice(0, MOST_BUTTONS).map((span, index) => (
        <button
          key={`${span.startSeconds}/${index}`}
          type="button"
          title={`${formatTime(span.startSeconds, 2)}: loop it`}
          aria-label={`Loop ${title} at ${formatTime(span.startSeconds, 1)}`}
          onClick={() => onLoop(index)}
          className="absolute top-[5px] h-[18px] min-w-[3px] bg-removed/75 hover:bg-ink"
          style={{ left: share(span.startSeconds), width: share(span.endSeconds - span.startSeconds) }}
        />
      ))}
    </div>
  );
}
