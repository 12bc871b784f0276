// Gain of a look-ahead limiter: sliding minimum over the look-ahead, exponential release, then a moving
// average over the look-ahead, so that the gain has come down by the time the peak leaves the delay.
import { allocate } from './memory';

const MAX_FRAMES: i32 = 4096;

let reach: i32 = 0;
let ring: usize = 0;
let ringAt: i32 = 0;
let sum: f64 = 0;
let released: f32 = 1;
let dequeGain: usize = 0;
let dequeFrame: usize = 0;
let head: i32 = 0;
let count: i32 = 0;
let now: i32 = 0;

/** In: peak envelope of up to 4096 frames. Out, in place: gain for the frame `reach` - 1 frames earlier. */
export let control: usize = 0;

export function limiterSetUp(reachFrames: i32): void {
  reach = reachFrames;
  ring = allocate(reach << 2);
  dequeGain = allocate((reach + 1) << 2);
  dequeFrame = allocate((reach + 1) << 2);
  control = allocate(MAX_FRAMES << 2);
  for (let i = 0; i < reach; i++) store<f32>(ring + (<usize>i << 2), 1);
  sum = <f64>reach;
}

// @ts-ignore: decorator
@inline
function slot(i: i32): usize {
  const at = head + i;
  return <usize>(at > reach ? at - reach - 1 : at) << 2;
}

export function limiterProcess(frames: i32, ceiling: f32, releaseShare: f32): void {
  for (let i = 0; i < frames; i++) {
    const at = control + (<usize>i << 2);
    const peak = load<f32>(at);
    const needed: f32 = peak > ceiling ? ceiling / peak : 1;
    if (count > 0 && now - load<i32>(dequeFrame + slot(0)) >= reach) {
      head = head == reach ? 0 : head + 1;
      count--;
    }
    while (count > 0 && load<f32>(dequeGain + slot(count - 1)) >= needed) count--;
    store<f32>(dequeGain + slot(count), needed);
    store<i32>(dequeFrame + slot(count), now);
    count++;
    now++;
    const held = load<f32>(dequeGain + slot(0));
    released += (1 - released) * releaseShare;
    if (held < released) released = held;
    const oldest = ring + (<usize>ringAt << 2);
    sum += <f64>released - <f64>load<f32>(oldest);
    store<f32>(oldest, released);
    ringAt = ringAt + 1 == reach ? 0 : ringAt + 1;
    store<f32>(at, <f32>(sum / <f64>reach));
  }
}
