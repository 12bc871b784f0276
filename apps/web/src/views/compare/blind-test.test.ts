import { chanceOfGuessing, rightOnes } from './blind-test.js';

// Tables of the binomial distribution at one half: 12 of 16 right is 0.0384, 9 of 10 is 0.0107, 5 of 10 or more is 0.6230 (values from memory,
// checked by counting: C(10,9) + C(10,10) = 11 of 1024).
test('the chance of doing as well by guessing', () => {
  expect(chanceOfGuessing(12, 16)).toBeCloseTo(0.0384, 4);
  expect(chanceOfGuessing(9, 10)).toBeCloseTo(11 / 1024, 12);
  expect(chanceOfGuessing(5, 10)).toBeCloseTo(0.623, 3);
  expect(chanceOfGuessing(0, 7)).toBe(1);
  expect(chanceOfGuessing(0, 0)).toBe(1);
});

test('right ones', () => {
  expect(
    rightOnes([
      { x: 'a', said: 'a' },
      { x: 'b', said: 'a' },
      { x: 'b', said: 'b' },
    ]),
  ).toBe(2);
});
