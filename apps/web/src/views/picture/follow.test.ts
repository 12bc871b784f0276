import { Follower } from './follow.js';

const follow = (given: Parameters<Follower['step']>[0]) => new Follower().step(given);
const now = { wanted: 10, shown: 10, playing: true, speed: 1, seeking: false };

test('where it is, it runs as the sound does, at any speed', () => {
  expect(follow(now)).toEqual({ rate: 1 });
  expect(follow({ ...now, speed: 0.5, shown: 10.005 })).toEqual({ rate: 0.5 });
});
test('stopped, it goes to the very place; on its way nowhere else', () => {
  expect(follow({ ...now, playing: false, shown: 9.96 })).toEqual({ seekTo: 10, rate: 1 });
  expect(follow({ ...now, playing: false, wanted: -0.2 })).toEqual({ seekTo: 0, rate: 1 });
  expect(follow({ ...now, playing: false, shown: 9, seeking: true })).toEqual({ rate: 1 });
});
test('far off it jumps, a little ahead, for a jump takes a moment', () => {
  const { seekTo } = follow({ ...now, shown: 4 });
  expect(seekTo).toBeGreaterThan(10);
  expect(seekTo).toBeLessThan(10.1);
});
test.each([0.1, -0.1, 0.06])('%f s behind it is there within a frame of 25 a second in a second, and stays', (behind) => {
  let shown = 10 - behind;
  for (let t = 0; t < 3; t += 1 / 60) {
    const { rate, seekTo } = follow({ ...now, wanted: 10 + t, shown });
    expect(seekTo).toBeUndefined();
    shown += rate / 60;
    if (t > 1) expect(Math.abs(10 + t + 1 / 60 - shown)).toBeLessThan(0.02);
  }
});

test.each([0, 0.1, 0.25])('where a jump takes %f s, the second one lands within a frame of 60 a second', (jumpSeconds) => {
  const follower = new Follower();
  let [shown, sentTo, leftSeconds] = [0, 0, 0];
  const landed: number[] = [];
  for (let frame = 0, wanted = 4; frame < 360; frame++, wanted = 4 + ((frame / 60) % 2)) {
    const seeking = leftSeconds > 0;
    const { seekTo, rate } = follower.step({ wanted, shown, playing: true, speed: 1, seeking });
    if (seekTo !== undefined) [sentTo, leftSeconds] = [seekTo, jumpSeconds];
    if (leftSeconds > 0) {
      shown = sentTo;
      leftSeconds -= 1 / 60;
      if (leftSeconds <= 0) landed.push(Math.abs(wanted - shown));
    } else shown += rate / 60;
  }
  // Twice round a loop of two seconds.
  expect(Math.max(0, ...landed.slice(-2))).toBeLessThan(1 / 30);
});
