import { follow } from './follow.js';

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
