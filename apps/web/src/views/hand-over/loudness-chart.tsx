import type { RenderReport } from '@euphonos/contracts';
import type { DeliveryTarget } from '@euphonos/engine';
import type { ApexOptions } from 'apexcharts';
import { useMemo } from 'react';
import { formatNumber, formatTime } from '../../components/figures.js';
import { pageColour } from '../../drawing/inks.js';
import { useTheme } from '../../shell/theme.js';
import { Chart } from '../../components/chart.js';

/** The first value of short-term loudness stands for the first three seconds. */
const FIRST_SECONDS = 3;
const SILENT_LUFS = -100;
const LOWEST_LUFS = -60;
const MOST_POINTS = 600;

/** Pairs [seconds, LUFS], thinned to what a chart can show; silence is a gap. */
function points(values: readonly number[], stepSeconds: number): [number, number | null][] {
  const every = Math.max(1, Math.ceil(values.length / MOST_POINTS));
  return values.flatMap((value, i) =>
    i % every === 0
      ? [[FIRST_SECONDS + i * stepSeconds, value <= SILENT_LUFS ? null : Math.max(LOWEST_LUFS, value)] as [number, number | null]]
      : [],
  );
}

function optionsFor(report: RenderReport, { integratedLufs, toleranceLu }: DeliveryTarget, theme: string): ApexOptions {
  return {
    series: [
      { name: 'Short-term loudness before, LUFS', data: points(report.loudnessBefore, report.loudnessStepSeconds) },
      { name: 'after', data: points(report.loudnessAfter, report.loudnessStepSeconds) },
    ],
    chart: {
      type: 'line',
      height: 200,
      animations: { enabled: false },
      toolbar: { show: false },
      zoom: { enabled: false },
      fontFamily: "'Source Sans 3 Variable', sans-serif",
      background: 'transparent',
      foreColor: pageColour('soft'),
    },
    theme: { mode: theme === 'day' ? 'light' : 'dark' },
    colors: [pageColour('source'), pageColour('result')],
    stroke: { width: 1.4, curve: 'straight' },
    grid: { borderColor: pageColour('faint'), padding: { left: 8, right: 8, top: -14, bottom: -6 } },
    legend: { show: true, position: 'top', horizontalAlign: 'left', offsetY: 4, markers: { size: 5 } },
    xaxis: {
      type: 'numeric',
      labels: { formatter: (value) => formatTime(Number(value), 0) },
      axisBorder: { color: pageColour('ink') },
      axisTicks: { color: pageColour('line') },
      tooltip: { enabled: false },
    },
    yaxis: { min: LOWEST_LUFS, max: 0, tickAmount: 4, labels: { formatter: (value) => formatNumber(value, 0) } },
    tooltip: {
      x: { formatter: (value) => formatTime(value, 1) },
      y: { formatter: (value) => (value === null || value === undefined ? 'silence' : `${formatNumber(value, 1)} LUFS`) },
    },
    annotations:
      integratedLufs === null
        ? {}
        : {
            yaxis: [
              {
                y: integratedLufs - toleranceLu,
                y2: integratedLufs + toleranceLu,
                fillColor: pageColour('practice'),
                opacity: 0.6,
                borderColor: 'transparent',
              },
            ],
          },
  };
}

/** Short-term loudness over time, before and after, with the target's band. */
export function LoudnessChart({ report, target }: { readonly report: RenderReport; readonly target: DeliveryTarget }) {
  const theme = useTheme();
  const options = useMemo(() => optionsFor(report, target, theme), [report, target, theme]);
  if (report.loudnessAfter.length < 2)
    return <p className="text-soft">Too short for loudness over time: it takes more than {FIRST_SECONDS} seconds.</p>;
  return <Chart options={options} label="Short-term loudness over time, before and after" />;
}
