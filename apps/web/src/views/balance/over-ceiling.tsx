import { useState } from 'react';
import { formatNumber, formatTime, setMinus } from '../../components/figures.js';
import { overCeiling } from '../../passage/peak-steps.js';
import { useKeys } from '../../shell/use-keys.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

interface Props {
  readonly peaksDbtp: readonly number[];
  readonly ceilingDbtp: number;
}

/** Places of the mix that are over the ceiling, one after the other by a key. */
export function OverCeiling({ peaksDbtp, ceilingDbtp }: Props) {
  const { player, sampleRateHz } = useWorkbench();
  const [at, setAt] = useState(-1);
  const places = overCeiling(peaksDbtp, ceilingDbtp);
  const next = (): void => {
    if (places.length === 0) return;
    const index = (at + 1) % places.length;
    setAt(index);
    player.seek(Math.round(places[index]!.atSeconds * sampleRateHz));
  };
  useKeys('k', next);
  if (places.length === 0) return null;
  const here = places[at];
  return (
    <button type="button" className="press ml-2 px-1.5! py-0! text-[12px] text-removed" data-over-ceiling={places.length} onClick={next}>
      {here
        ? setMinus(`${formatTime(here.atSeconds, 1)}: ${formatNumber(here.dbtp, 1)} dBTP`)
        : `${places.length === 1 ? '1 place' : `${places.length} places`} over the ceiling`}{' '}
      <span className="key">K</span>
    </button>
  );
}
