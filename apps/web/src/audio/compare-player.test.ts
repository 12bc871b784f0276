import { ComparePlayer } from './compare-player.js';

const RATE_HZ = 48_000;

/** What the player asks of Web Audio, with a clock that is moved by hand. */
class FakeContext {
  static made: FakeContext[] = [];
  currentTime = 10;
  readonly destination = {};
  readonly gains: { gain: { value: number; ramps: [number, number][] } }[] = [];
  readonly sources: { started: [number, number] | null; stopped: boolean; loop: boolean; buffer: { channels: Float32Array[] } | null }[] =
    [];
  closed = false;

  constructor() {
    FakeContext.made.push(this);
  }
  createGain() {
    const ramps: [number, number][] = [];
    const gain = {
      value: 0,
      ramps,
      cancelScheduledValues: () => undefined,
      setValueAtTime: () => undefined,
      linearRampToValueAtTime(value: number, at: number) {
        gain.value = value;
        ramps.push([value, at]);
      },
    };
    const node = { gain, connect: () => undefined };
    this.gains.push(node);
    return node;
  }
  createBufferSource() {
    const source = {
      started: null as [number, number] | null,
      stopped: false,
      loop: false,
      buffer: null,
      connect: () => undefined,
      start(at: number, offset: number) {
        source.started = [at, offset];
      },
      stop() {
        source.stopped = true;
      },
    };
    this.sources.push(source);
    return source;
  }
  createBuffer(count: number, frames: number) {
    const channels = Array.from({ length: count }, () => new Float32Array(frames));
    return { channels, copyToChannel: (samples: Float32Array, c: number) => channels[c]!.set(samples) };
  }
  async resume() {}
  async close() {
    this.closed = true;
  }
}
const sound = (gainDb: number) => ({ channels: [new Float32Array(2 * RATE_HZ).fill(1)], gainDb });
let player: ComparePlayer;
beforeEach(() => {
  FakeContext.made = [];
  globalThis.AudioContext = FakeContext as never;
  player = new ComparePlayer([sound(0), sound(-6)], RATE_HZ);
});
const context = (): FakeContext => FakeContext.made[0]!;

test('both begin at the same moment and place, one of them heard, each at its gain', async () => {
  player.hear(1);
  await player.play();
  expect(context().sources.map(({ started, loop }) => [started, loop])).toEqual([
    [[10.05, 0], true],
    [[10.05, 0], true],
  ]);
  expect(context().gains[0]!.gain.value).toBe(0);
  expect(context().gains[1]!.gain.value).toBeCloseTo(0.501, 3);
  player.hear(0);
  expect(context().gains.map(({ gain }) => gain.value)).toEqual([1, 0]);
  // Within 8 ms: no click, and nothing that betrays it.
  expect(context().gains[0]!.gain.ramps).toEqual([[1, 10.008]]);
});

test('it repeats without a click: the seam comes and goes', async () => {
  await player.play();
  const [samples] = context().sources[0]!.buffer!.channels;
  expect([samples![0], samples![samples!.length - 1]]).toEqual([0, 0]);
  expect(samples![RATE_HZ]).toBe(1);
  // What was handed over stays as it was.
  expect(sound(0).channels[0]![0]).toBe(1);
});

test('stopped, it goes on where it was; around the end it begins again', async () => {
  await player.play();
  context().currentTime = 11.55;
  expect(player.seconds).toBeCloseTo(1.5);
  player.stop();
  expect([player.playing, context().sources.every(({ stopped }) => stopped)]).toEqual([false, true]);
  context().currentTime = 20;
  expect(player.seconds).toBeCloseTo(1.5);
  await player.play();
  expect(context().sources[2]!.started).toEqual([20.05, expect.closeTo(1.5, 6)]);
  context().currentTime = 21.05;
  expect(player.seconds).toBeCloseTo(0.5);
  player.close();
  expect([context().closed, player.playing]).toEqual([true, false]);
});
