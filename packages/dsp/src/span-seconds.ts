/** A stretch of the recording, in seconds. */
export interface SpanSeconds {
  readonly startSeconds: number;
  readonly endSeconds: number;
}
