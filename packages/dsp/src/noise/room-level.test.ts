import { joined, noise, RATE_HZ } from '../testing/signals.js';
import { evenLevels, LevelTracker } from '../treatments/pauses/find-pauses.js';
import { roomLevelDb, roomToneGain } from './room-level.js';

const tracker = new LevelTracker(RATE_HZ);
/** A room at -60 dBFS, talk, the room 6 dB louder, talk, a rush far louder. */
const sound = joined(noise(-60, 2, 1), noise(-20, 1, 2), noise(-54, 2, 3), noise(-20, 1, 4), noise(-30, 2, 5));
tracker.process([sound], sound.length);
const { stepSeconds, meanSquares } = tracker.finish();
const levels = evenLevels({ stepSeconds, meanSquares });

test('the room is the quietest part of a stretch, whatever is talked in it', () => {
  expect(roomLevelDb(levels, stepSeconds, { startSeconds: 0, endSeconds: 2 })).toBeCloseTo(-60, 0);
  // The quietest third of a noise is a little under its mean, so both are compared by the same part.
  expect(roomLevelDb(levels, stepSeconds, { startSeconds: 1, endSeconds: 3 })).toBeLessThan(-59);
});

test('tone is raised to a louder room, by no more than 12 dB', () => {
  const gain = roomToneGain(levels, stepSeconds, { startSeconds: 0.2, endSeconds: 1.8 });
  expect(Math.abs(gain({ startSeconds: 0.5, endSeconds: 1 }))).toBeLessThan(0.5);
  expect(Math.abs(gain({ startSeconds: 3.8, endSeconds: 4.2 }) - 6)).toBeLessThan(0.5);
  expect(gain({ startSeconds: 7, endSeconds: 7.4 })).toBe(12);
});
