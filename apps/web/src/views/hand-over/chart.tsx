import ApexCharts, { type ApexOptions } from 'apexcharts';
import { useEffect, useRef } from 'react';

/** A chart of ApexCharts, drawn anew when its options change. */
export function Chart({ options, label }: { readonly options: ApexOptions; readonly label: string }) {
  const ref = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const chart = new ApexCharts(ref.current!, options);
    void chart.render();
    return () => chart.destroy();
  }, [options]);
  return <div ref={ref} role="img" aria-label={label} />;
}
