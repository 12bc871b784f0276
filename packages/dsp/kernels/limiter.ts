// True-peak limiter with look-ahead. Its gain: sliding minimum over the look-ahead, exponential release (slower, the more there was to
// limit lately), then a moving
// average over the look-ahead, so that the gain has come down by the time the peak leaves the delay.
import { allocate } from './memory';
import { peakEnvelope, peakNewest, truePeakProcess, truePeakSetUp } from './true-peak';

const MAX_FRAMES: i32 = 4096;

let reach: i32 = 0;
let ring: usize = 0;
let ringAt: i32 = 0;
let sum: f64 = 0;
export let released: f32 = 1;
/** What was missing of the gain lately, on average. */
export let missingLately: f32 = 0;
let dequeGain: usize = 0;
let dequeFrame: usize = 0;
let head: i32 = 0;
let count: i32 = 0;
let now: i32 = 0;
/** Frames in a row without anything to limit and with the release over. From `reach` on, everything stored is 1. */
let restFrames: i32 = 0;
/** The release ends when this little is missing; 0.004 dB, and the average rounds the step off. */
const RELEASED: f32 = 0.9995;

/** -0.1 dB as a gain. */
const AUDIBLY_LIMITED: f32 = 0.98855;
/** The least gain so far, and how many frames were lowered by 0.1 dB or more. */
export let leastGain: f32 = 1;
export let limitedFrames: f64 = 0;

/** Gains of the last block, up to 4096: what was taken of each frame that went out. */
export let control: usize = 0;
/** A delay line a channel: `delayFrames` past frames, then the block; the frames that go out are at its start. */
let lines: usize = 0;
let lineStride: usize = 0;
let delayFrames: i32 = 0;
let channelCount: i32 = 0;
/** What goes out, 4096 frames a channel. */
export let limited: usize = 0;

export function limiterSetUp(reachFrames: i32, tapsPerPhase: i32, channels: i32, threesOfPhases: i32): void {
  truePeakSetUp(tapsPerPhase, channels, threesOfPhases);
  channelCount = channels;
  delayFrames = reachFrames - 1 + (tapsPerPhase >> 1);
  lineStride = <usize>((delayFrames + MAX_FRAMES + 4) << 2);
  lines = allocate(<i32>lineStride * channels);
  limited = allocate((MAX_FRAMES << 2) * channels);
  reach = reachFrames;
  ring = allocate(reach << 2);
  dequeGain = allocate((reach + 1) << 2);
  dequeFrame = allocate((reach + 1) << 2);
  control = allocate((MAX_FRAMES + 4) << 2);
  for (let i = 0; i < reach; i++) store<f32>(ring + (<usize>i << 2), 1);
  sum = <f64>reach;
}

// @ts-ignore: decorator
@inline
function slot(i: i32): usize {
  return <usize>(i > reach ? i - reach - 1 : i) << 2;
}

function makeGains(frames: i32, ceiling: f32, releaseShare: f32, denseShare: f32, latelyShare: f32): void {
  // Held in registers: each frame waits for the one before, and through the memory it waits longer.
  let total = sum;
  let back = released;
  let lately = missingLately;
  const dense = denseShare != releaseShare;
  let rest = restFrames;
  let first = head;
  let held = count;
  let time = now;
  let oldest = ringAt;
  let least = leastGain;
  let lowered = limitedFrames;
  const length = <f64>reach;
  for (let i = 0; i < frames; i++) {
    const at = control + (<usize>i << 2);
    const peak = load<f32>(at);
    const needed: f32 = peak > ceiling ? ceiling / peak : 1;
    if (needed == 1 && back == 1) {
      rest++;
      if (rest > reach) {
        held = 0;
        total = length;
        store<f32>(at, 1);
        lately -= lately * latelyShare;
        continue;
      }
    } else rest = 0;
    if (held > 0 && time - load<i32>(dequeFrame + slot(first)) >= reach) {
      first = first == reach ? 0 : first + 1;
      held--;
    }
    while (held > 0 && load<f32>(dequeGain + slot(first + held - 1)) >= needed) held--;
    store<f32>(dequeGain + slot(first + held), needed);
    store<i32>(dequeFrame + slot(first + held), time);
    held++;
    time++;
    const lowest = load<f32>(dequeGain + slot(first));
    if (dense) {
      lately += (1 - lowest - lately) * latelyShare;
      // A single peak is let go at once; where the average is as low as the peak, as slowly as that moves.
      const share = back < 1 ? min(<f32>1, lately / (1 - back)) : <f32>0;
      back += (1 - back) * (releaseShare + share * (denseShare - releaseShare));
    } else back += (1 - back) * releaseShare;
    if (back > RELEASED) back = 1;
    if (lowest < back) back = lowest;
    const place = ring + (<usize>oldest << 2);
    total += <f64>back - <f64>load<f32>(place);
    store<f32>(place, back);
    oldest = oldest + 1 == reach ? 0 : oldest + 1;
    const gain = <f32>(total / length);
    least = min(least, gain);
    if (gain < AUDIBLY_LIMITED) lowered++;
    store<f32>(at, gain);
  }
  sum = total;
  released = back;
  missingLately = lately;
  restFrames = rest;
  head = first;
  count = held;
  now = time;
  ringAt = oldest;
  leastGain = least;
  limitedFrames = lowered;
}

/** Takes the newest samples of each true-peak input, writes `limited`. gain is applied before the limiter. */
export function limiterProcess(
  frames: i32,
  gain: f32,
  ceiling: f32,
  releaseShare: f32,
  denseShare: f32,
  latelyShare: f32,
  bound: f32,
): void {
  const bytes = <usize>(frames << 2);
  const delayBytes = <usize>(delayFrames << 2);
  const g = f32x4.splat(gain);
  memory.fill(control, 0, bytes);
  for (let c = 0; c < channelCount; c++) {
    const line = lines + lineStride * <usize>c;
    memory.copy(line + delayBytes, peakNewest(c), bytes);
    truePeakProcess(c, frames, ceiling / gain, bound);
    const peaks = peakEnvelope(c);
    for (let o: usize = 0; o < bytes; o += 16)
      v128.store(control + o, f32x4.max(v128.load(control + o), f32x4.mul(v128.load(peaks + o), g)));
  }
  makeGains(frames, ceiling, releaseShare, denseShare, latelyShare);
  for (let c = 0; c < channelCount; c++) {
    const line = lines + lineStride * <usize>c;
    const out = limited + <usize>((MAX_FRAMES << 2) * c);
    for (let o: usize = 0; o < bytes; o += 16)
      v128.store(out + o, f32x4.mul(f32x4.mul(v128.load(line + o), g), v128.load(control + o)));
    memory.copy(line, line + bytes, delayBytes);
  }
}
