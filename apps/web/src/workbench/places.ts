import { Placer, recordingFrameAt, recordingSpans, type Clip, type Span } from '@euphonos/engine';

/** Seconds of a recording as they stand in settings and surveys. */
export interface SecondsSpan {
  readonly startSeconds: number;
  readonly endSeconds: number;
}

/**
 * Between the two times of a track: that of its recording, in which passages, breaths, clicks and whatever a survey found
 * are told, and that of the session, which is drawn and heard.
 */
export class Places {
  readonly #placer: Placer;

  constructor(
    readonly clips: readonly Clip[],
    private readonly sampleRateHz: number,
  ) {
    this.#placer = new Placer(clips);
  }

  /** Where a span of the recording sounds; nowhere when it was cut. */
  of(span: Span): Span[] {
    return this.#placer.placesOf(span);
  }

  ofSeconds({ startSeconds, endSeconds }: SecondsSpan): Span[] {
    const frame = (seconds: number): number => Math.max(0, Math.round(seconds * this.sampleRateHz));
    return this.of({ startFrame: frame(startSeconds), endFrame: Math.max(frame(startSeconds) + 1, frame(endSeconds)) });
  }

  /** The stretches of the recording that sound in a span of the session. */
  recorded(span: Span): Span[] {
    return recordingSpans(this.clips, span);
  }

  /** The longest of them, in seconds of the recording, to the millisecond; null where nothing sounds. */
  recordedSeconds(span: Span): SecondsSpan | null {
    const [longest] = this.recorded(span).sort((a, b) => b.endFrame - b.startFrame - (a.endFrame - a.startFrame));
    const ms = (frame: number): number => Math.round((frame / this.sampleRateHz) * 1000) / 1000;
    return longest ? { startSeconds: ms(longest.startFrame), endSeconds: ms(longest.endFrame) } : null;
  }

  recordedFrame(frame: number): number | null {
    return recordingFrameAt(this.clips, frame);
  }
}
