import type ApexCharts from 'apexcharts';
import type { ApexOptions } from 'apexcharts';
import { useEffect, useRef, useState, type ReactNode } from 'react';

/** Where the values of a chart are drawn, in px from its upper left corner. */
export interface Plot {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

interface Props {
  readonly options: ApexOptions;
  readonly label: string;
  /** Given apart from the options, they change without the chart being made anew. */
  readonly series?: ApexOptions['series'];
  /** Drawn over the plot. */
  readonly children?: (plot: Plot) => ReactNode;
}

/** A chart of ApexCharts, made anew when its options change. */
export function Chart({ options, label, series, children }: Props) {
  const ref = useRef<HTMLDivElement>(null);
  const chart = useRef<ApexCharts | null>(null);
  const [plot, setPlot] = useState<Plot | null>(null);
  const latest = useRef(series);
  latest.current = series;
  useEffect(() => {
    let open = true;
    let made: ApexCharts | null = null;
    // Half a megabyte that nothing waits for: a page is there before its charts.
    void import('apexcharts').then(async ({ default: Charts }) => {
      if (!open) return;
      made = new Charts(ref.current!, latest.current ? { ...options, series: latest.current } : options);
      chart.current = made;
      await made.render();
      if (!open) return;
      const { translateX, translateY, gridWidth, gridHeight } = (made as unknown as { w: { globals: Record<string, number> } }).w.globals;
      setPlot({ left: translateX!, top: translateY!, width: gridWidth!, height: gridHeight! });
    });
    return () => {
      open = false;
      chart.current = null;
      made?.destroy();
    };
  }, [options]);
  useEffect(() => {
    if (series && plot) void chart.current?.updateSeries(series as never, false);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a chart that was just made has its series
  }, [series]);
  return (
    <div className="relative">
      <div ref={ref} role="img" aria-label={label} />
      {plot && children?.(plot)}
    </div>
  );
}
