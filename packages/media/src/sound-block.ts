/** A stretch of sound as it streams by: one array a channel, valid until the next one is asked for. */
export interface SoundBlock {
  readonly channels: readonly Float32Array[];
  readonly frames: number;
}
