import { formatNumber } from '../../components/figures.js';
import { chanceOfGuessing, HEARD_BELOW, rightOnes, type Trial } from './blind-test.js';

/** Fewer turns tell nothing: even all of them right come by chance too often. */
const LEAST_TURNS = 5;

/** How a blind test went: the score, what guessing alone brings, and every turn. */
export function Score({ trials }: { readonly trials: readonly Trial[] }) {
  const right = rightOnes(trials);
  const chance = chanceOfGuessing(right, trials.length);
  return (
    <p className="m-0 mt-3 text-[14px]" role="status" data-score={`${right}/${trials.length}`}>
      <b className="text-[20px] text-result">
        {right} of {trials.length}
      </b>{' '}
      right. By guessing alone, {formatNumber(100 * chance, chance < 0.1 ? 1 : 0)} % do as well or better:{' '}
      {chance < HEARD_BELOW
        ? 'you hear the difference.'
        : trials.length < LEAST_TURNS
          ? 'too few turns to tell.'
          : 'nothing shows that you hear it.'}
      <span className="block text-[12px] text-soft">
        {trials
          .map(({ x: was, said }, i) => `${i + 1}: ${was.toUpperCase()}${was === said ? '' : `, said ${said.toUpperCase()}`}`)
          .join(' · ')}
      </span>
    </p>
  );
}
