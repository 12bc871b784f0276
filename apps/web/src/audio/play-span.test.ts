import { playSpan } from './play-span.js';

function made() {
  const listeners = new Set<() => void>();
  const player = {
    frame: 0,
    playing: false,
    seek: jest.fn((frame: number) => void (player.frame = frame)),
    play: jest.fn(async () => void (player.playing = true)),
    stop: jest.fn(() => void (player.playing = false)),
    subscribe: (call: () => void) => {
      listeners.add(call);
      return () => void listeners.delete(call);
    },
  };
  const at = (frame: number): void => {
    player.frame = frame;
    [...listeners].forEach((call) => call());
  };
  return { player, at, listeners };
}

test('it plays a span, stops at its end by itself, and the playhead goes back', async () => {
  const { player, at, listeners } = made();
  await playSpan(player, { fromFrame: 100, untilFrame: 500, backTo: 300 });
  expect(player.seek).toHaveBeenLastCalledWith(100);
  at(400);
  expect(player.playing).toBe(true);
  at(510);
  expect([player.playing, player.frame, listeners.size]).toEqual([false, 300, 0]);
});

test('without an end it goes on until it is stopped, and then back', async () => {
  const { player, at } = made();
  await playSpan(player, { fromFrame: 100, untilFrame: null, backTo: 300 });
  at(90_000);
  expect(player.playing).toBe(true);
  player.playing = false;
  at(90_100);
  expect(player.frame).toBe(300);
});

test('who plays something else is left alone', async () => {
  const { player, at, listeners } = made();
  await playSpan(player, { fromFrame: 1000, untilFrame: 5000, backTo: 2000 });
  at(3000);
  at(200);
  at(6000);
  expect([player.playing, player.frame, listeners.size]).toEqual([true, 6000, 0]);
  await playSpan(player, { fromFrame: 0, untilFrame: 100, backTo: 0 });
  await playSpan(player, { fromFrame: 50, untilFrame: 100, backTo: 7 });
  expect(listeners.size).toBe(1);
});
