import { useState } from 'react';
import { nextX, type Answer, type Trial } from './blind-test.js';

/** A blind test as it goes: what X is now (null outside of it), what was said, and whether it has been told. */
export function useBlindTest() {
  const [x, setX] = useState<Answer | null>(null);
  const [trials, setTrials] = useState<readonly Trial[]>([]);
  const [told, setTold] = useState(false);
  const begin = (): void => {
    setTrials([]);
    setTold(false);
    setX(nextX());
  };
  const answer = (said: Answer): void => {
    if (x === null) return;
    setTrials([...trials, { x, said }]);
    setX(nextX());
  };
  const finish = (): void => {
    setX(null);
    setTold(true);
  };
  return { x, trials, told, begin, answer, finish };
}
