// Samples as whole numbers of 24 bits, as they lie in a file: least byte first, channel beside channel.
import { allocate } from './memory';

const MAX_FRAMES: i32 = 4096;
const SCALE: f64 = 8388608;

let packChannels: i32 = 0;
/** 4096 samples a channel, one channel after the other. */
export let packInput: usize = 0;
/** What goes to the file; one byte more, since whole words are stored. */
export let packed: usize = 0;

export function packSetUp(channels: i32): void {
  packChannels = channels;
  packInput = allocate((MAX_FRAMES << 2) * channels);
  packed = allocate(3 * MAX_FRAMES * channels + 1);
}

/** Rounded to the nearest step (halves upwards), held within full scale. */
export function pack24(frames: i32): void {
  let to = packed;
  for (let n = 0; n < frames; n++) {
    for (let c = 0; c < packChannels; c++) {
      const x = <f64>load<f32>(packInput + (<usize>(c * MAX_FRAMES + n) << 2)) * SCALE + 0.5;
      store<i32>(to, <i32>min(SCALE - 1, max(-SCALE, floor(x))));
      to += 3;
    }
  }
}
