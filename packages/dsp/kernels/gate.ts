// Gate: key power (the louder channel), detector, hysteresis, hold, ramps in equal dB steps, delay.
import { allocate } from './memory';

const MAX_FRAMES: i32 = 4096;

// What it remembers, to be read and set from outside between two blocks.
export let gatePower: f32 = 0;
export let gateGain: f32 = 1;
export let gateOpen: bool = false;
export let gateHeldFrames: i32 = 0;

let channelCount: i32 = 0;
let delayBytes: usize = 0;
let lineStride: usize = 0;
/** A delay line a channel: `delayFrames` past frames, then the block; the frames that go out are at its start. */
export let gateLines: usize = 0;
/** What the detector hears, in the same places; used where it hears something else than what goes out. */
export let gateKeys: usize = 0;
/** What goes out, 4096 frames a channel. */
export let gated: usize = 0;
/** The gain of each frame that goes out. */
export let gateGains: usize = 0;

export function gateSetUp(delayFrames: i32, channels: i32): void {
  channelCount = channels;
  delayBytes = <usize>(delayFrames << 2);
  lineStride = <usize>((delayFrames + MAX_FRAMES + 4) << 2);
  gateLines = allocate(<i32>lineStride * channels);
  gateKeys = allocate(<i32>lineStride * channels);
  gated = allocate((MAX_FRAMES << 2) * channels);
  gateGains = allocate((MAX_FRAMES + 4) << 2);
}

/** Silence in the delay, closed at the gain given. */
export function gateReset(floorGain: f32): void {
  memory.fill(gateLines, 0, lineStride * <usize>channelCount);
  memory.fill(gateKeys, 0, lineStride * <usize>channelCount);
  gatePower = 0;
  gateGain = floorGain;
  gateOpen = false;
  gateHeldFrames = 0;
}

/** Power of the louder channel, `ahead` frames before the ones that go out: into `gateGains`. */
function keyPower(keys: usize, frames: i32, ahead: i32): void {
  const bytes = <usize>(frames << 2);
  memory.fill(gateGains, 0, bytes);
  for (let c = 0; c < channelCount; c++) {
    const key = keys + lineStride * <usize>c + <usize>(ahead << 2);
    for (let o: usize = 0; o < bytes; o += 16) {
      const x = v128.load(key + o);
      v128.store(gateGains + o, f32x4.max(v128.load(gateGains + o), f32x4.mul(x, x)));
    }
  }
}

function makeGains(
  frames: i32, detectorShare: f32, openPower: f32, closePower: f32, floorGain: f32, rise: f32, fall: f32, holdFrames: i32,
): void {
  // Held in registers: each frame waits for the one before, and through the memory it waits longer.
  let power = gatePower;
  let gain = gateGain;
  let open = gateOpen;
  let heldFrames = gateHeldFrames;
  for (let i = 0; i < frames; i++) {
    const at = gateGains + (<usize>i << 2);
    // The offset keeps the detector out of the subnormal range in silence.
    power += detectorShare * (load<f32>(at) - power) + <f32>1e-30;
    if (power >= openPower) open = true;
    if (open) {
      if (power >= closePower) heldFrames = holdFrames;
      else if (heldFrames > 0) heldFrames--;
      else open = false;
    }
    const target: f32 = open ? 1 : floorGain;
    if (gain < target) gain = min<f32>(target, gain * rise);
    else if (gain > target) gain = max<f32>(target, gain * fall);
    store<f32>(at, gain);
  }
  gatePower = power;
  gateGain = gain;
  gateOpen = open;
  gateHeldFrames = heldFrames;
}

/** Takes the block written behind the past of each delay line, writes `gated`. ahead: frames the detector listens ahead; keyed: to `gateKeys`. */
export function gateProcess(
  frames: i32, ahead: i32, detectorShare: f32, openPower: f32, closePower: f32, floorGain: f32, rise: f32, fall: f32, holdFrames: i32, keyed: i32,
): void {
  const bytes = <usize>(frames << 2);
  keyPower(keyed ? gateKeys : gateLines, frames, ahead);
  makeGains(frames, detectorShare, openPower, closePower, floorGain, rise, fall, holdFrames);
  for (let c = 0; c < channelCount; c++) {
    const line = gateLines + lineStride * <usize>c;
    const out = gated + <usize>((MAX_FRAMES << 2) * c);
    for (let o: usize = 0; o < bytes; o += 16) v128.store(out + o, f32x4.mul(v128.load(line + o), v128.load(gateGains + o)));
    memory.copy(line, line + bytes, delayBytes);
    const key = gateKeys + lineStride * <usize>c;
    if (keyed) memory.copy(key, key + bytes, delayBytes);
  }
}
