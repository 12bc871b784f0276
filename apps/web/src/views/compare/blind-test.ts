/** Which of the two X is. */
export type Answer = 'a' | 'b';

/** One turn of a blind test: what X was, and what was said of it. */
export interface Trial {
  readonly x: Answer;
  readonly said: Answer;
}

/** Share of listeners who do as well or better by guessing: the tail of a binomial distribution at one half. */
export function chanceOfGuessing(right: number, trials: number): number {
  let ways = 1;
  let sum = 0;
  for (let k = 0; k <= trials; k++) {
    if (k >= right) sum += ways;
    ways = (ways * (trials - k)) / (k + 1);
  }
  return sum / 2 ** trials;
}

export const rightOnes = (trials: readonly Trial[]): number => trials.filter(({ x, said }) => x === said).length;

/** A difference counts as heard where guessing alone does as well in less than this. Common practice. */
export const HEARD_BELOW = 0.05;

/** The next X: even chances, from random bits that nobody foresees. */
export const nextX = (): Answer => (crypto.getRandomValues(new Uint8Array(1))[0]! & 1 ? 'a' : 'b');
