import type { RulePlace } from '@euphonos/engine';
import { useState } from 'react';
import { formatNumber, formatTime } from '../../../components/figures.js';
import { useKeys } from '../../../shell/use-keys.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';

/** Places that break a rule of the target, one after the other by a key. */
export function RulePlaces({ places }: { readonly places: readonly RulePlace[] }) {
  const { player, sampleRateHz } = useWorkbench();
  const [at, setAt] = useState(-1);
  const next = (): void => {
    if (places.length === 0) return;
    const index = (at + 1) % places.length;
    setAt(index);
    player.seek(Math.round(places[index]!.atSeconds * sampleRateHz));
  };
  useKeys('k', next);
  if (places.length === 0) return null;
  const here = places[at];
  const peaks = places.filter(({ rule }) => rule === 'peak').length;
  const loud = places.length - peaks;
  const words = [...(peaks > 0 ? [`${peaks} over the ceiling`] : []), ...(loud > 0 ? [`${loud} too loud for 3 s`] : [])].join(', ');
  return (
    <button
      type="button"
      className="press ml-2 px-1.5! py-0! text-[12px] text-removed"
      data-rule-places={places.length}
      title="Places that break a rule of the target, one after the other"
      onClick={next}
    >
      {here
        ? `${formatTime(here.atSeconds, 1)}: ${formatNumber(here.value, 1)} ${here.rule === 'peak' ? 'dBTP' : 'LUFS'}, may be ${formatNumber(here.limit, 1)}`
        : words}{' '}
      <span className="key">K</span>
    </button>
  );
}
