import { talkLufs } from './talk-level.js';

const talk = [
  { startSeconds: 1, endSeconds: 3, lufs: -20 },
  { startSeconds: 5, endSeconds: 6, lufs: -30 },
];

test('the mean power of what is said, gaps left out', () => {
  // Two parts of 0.01 and one of 0.001: 0.007.
  expect(talkLufs(talk, 0, 10)).toBeCloseTo(10 * Math.log10(0.007), 6);
  expect(talkLufs(talk, 4, 10)).toBeCloseTo(-30, 6);
  expect(talkLufs(talk, 2.5, 5.5)).toBeCloseTo(10 * Math.log10(0.0055), 6);
});

test('where nobody talks there is none', () => {
  expect(talkLufs(talk, 3, 5)).toBeNull();
  expect(talkLufs([], 0, 10)).toBeNull();
});
