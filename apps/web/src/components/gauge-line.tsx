import type { Gauge } from '@euphonos/engine';
import { shareOf } from './ruler-scale.js';

/** The value on its range; what nobody minds is in ochre. */
export function GaugeLine({ gauge }: { readonly gauge: Gauge }) {
  const scale = { min: gauge.min, max: gauge.max, scale: 'linear' } as const;
  const at = (value: number): number => shareOf(scale, value) * 100;
  return (
    <div aria-hidden className="relative h-[22px] w-full">
      <i
        className="absolute top-[7px] h-[8px] bg-practice"
        style={{ left: `${at(gauge.fine[0])}%`, width: `${at(gauge.fine[1]) - at(gauge.fine[0])}%` }}
      />
      <i className="absolute inset-x-0 top-[15px] h-px bg-ink" />
      <i
        className="absolute top-[2px] -ml-[4px] border-x-4 border-t-[7px] border-x-transparent border-t-removed"
        style={{ left: `${at(gauge.value)}%` }}
      />
    </div>
  );
}
