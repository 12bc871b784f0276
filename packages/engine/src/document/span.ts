/** Half-open span of frames [startFrame, endFrame) of a recording, or of what a track makes of it. */
export interface Span {
  readonly startFrame: number;
  readonly endFrame: number;
}

export const spanFrames = (span: Span): number => span.endFrame - span.startFrame;
