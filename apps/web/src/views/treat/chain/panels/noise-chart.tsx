import { profileFromFile, reductionCurveDb, treatmentOf, type ListRow, type NoiseProfile, type TreatmentSettings } from '@euphonos/dsp';
import type { ApexOptions } from 'apexcharts';
import { useEffect, useMemo, useState } from 'react';
import { toast } from 'sonner';
import { getProfileFile } from '../../../../api/client.js';
import { Chart } from '../../../../components/chart.js';
import { formatNumber } from '../../../../components/figures.js';
import { pageColour } from '../../../../drawing/inks.js';
import { useTheme } from '../../../../shell/theme.js';
import { useApp } from '../../../../store/store.js';
import { useProfile, useSpectra, useWorkbench } from '../../../../workbench/workbench-context.js';
import { CurveHandles } from './curve-handles.js';
import { DifferenceLine } from './difference-line.js';
import { asCurve, chartFrequencies, noiseLines, spectrumLine } from './noise-lines.js';
import type { PanelProps } from './panel.js';

const HEIGHT = 190;
const RANGE_DB = 90;
const fields = treatmentOf('noise-reduction').lists!['curve']!.fields!;

/** How far each of the frequencies is lowered at most, dB. */
function depthsDb(settings: TreatmentSettings, hz: readonly number[]): number[] {
  const number = (name: string): number => settings[name] as number;
  const shape = {
    reductionDb: number('reductionDb'),
    lowsDb: number('lowsDb'),
    highsDb: number('highsDb'),
    fromHz: number('fromHz'),
    toHz: number('toHz'),
    points: settings['curve'] as readonly ListRow[],
  };
  return hz.map((at) => reductionCurveDb(at, 2, shape)[1]!);
}

/**
 * The noise as it is known: level and flutter, the threshold that the setting makes of it, the words of the loop, and
 * what remains of the noise: a curve that is dragged, for more or less reduction there.
 */
export function NoiseChart({ settings, set }: Pick<PanelProps, 'settings' | 'set'>) {
  const theme = useTheme();
  const { sampleRateHz } = useWorkbench();
  const taken = useProfile();
  const spectra = useSpectra();
  const compared = useCompared();
  const profiled = settings['mode'] === 'fixed' || settings['mode'] === 'follow';
  const profile = profiled ? taken : null;
  const hz = useMemo(() => chartFrequencies(sampleRateHz), [sampleRateHz]);
  const noise = useMemo(() => noiseLines(profile, profiled ? null : spectra, hz), [profile, profiled, spectra, hz]);
  const words = useMemo(() => (spectra ? spectrumLine(spectra.source, spectra.binHz, hz) : null), [spectra, hz]);
  const others = useMemo(() => (compared ? noiseLines(compared.profile, null, hz) : null), [compared, hz]);
  const thresholdDb = settings['mode'] === 'voice' ? 0 : (settings['thresholdDb'] as number);
  // The range follows in steps, so that the chart stands still while a control moves.
  const topDb = noise ? 10 * Math.ceil((Math.max(...noise.highDb, ...(words ?? [])) + 3) / 10) : 0;
  const options = useMemo(() => optionsFor(hz, topDb, theme), [hz, topDb, theme]);
  const series = useMemo(() => {
    const xy = (line: readonly number[]) => hz.map((at, i) => ({ x: Math.log10(at), y: line[i]! }));
    const colour = (name: Parameters<typeof pageColour>[0]): string => pageColour(name) || theme;
    return [
      {
        name: 'flutter',
        type: 'rangeArea',
        color: colour('removed'),
        data: noise ? hz.map((at, i) => ({ x: Math.log10(at), y: [noise.lowDb[i]!, noise.highDb[i]!] })) : [],
      },
      { name: 'noise', type: 'line', color: colour('removed'), data: noise ? xy(noise.levelDb) : [] },
      {
        name: 'threshold',
        type: 'line',
        color: colour('soft'),
        data: noise && thresholdDb !== 0 ? xy(noise.smoothDb.map((db) => db + thresholdDb)) : [],
      },
      { name: 'words', type: 'line', color: colour('source'), data: words ? xy(words) : [] },
      { name: 'compared', type: 'line', color: colour('focus'), data: others ? xy(others.levelDb) : [] },
    ] as ApexOptions['series'];
  }, [hz, noise, words, others, thresholdDb, theme]);
  if (!noise)
    return (
      <p role="status" className="m-0 py-2 text-[12px] text-soft">
        {profiled ? 'There is no profile to draw yet.' : 'Measuring the noise between the words …'}
      </p>
    );
  const depths = depthsDb(settings, hz);
  return (
    <div className="mb-1" data-noise-chart>
      <Chart
        options={options}
        series={series}
        label={`Noise over frequency: ${profiled ? 'the profile' : 'between the words'}, the words of the loop, and what remains of the noise`}
      >
        {(plot) => (
          <CurveHandles
            plot={plot}
            hz={hz}
            noiseDb={noise.smoothDb}
            depthsDb={depths}
            rangeDb={[topDb - RANGE_DB, topDb]}
            editable={settings['mode'] !== 'voice'}
            curve={asCurve(settings['curve'] as readonly ListRow[])}
            most={12}
            offsetRange={[fields['offsetDb']!.min, fields['offsetDb']!.max]}
            onChange={(points) => set('curve', points as unknown as readonly ListRow[])}
          />
        )}
      </Chart>
      <p className="m-0 flex flex-wrap gap-x-3 text-[12px] text-soft">
        <span className="text-source">— words</span>
        <span className="text-removed">— noise{profiled ? ' ± flutter' : ' between them'}</span>
        {thresholdDb !== 0 && <span>- - threshold</span>}
        <span className="text-result">— what remains: drag it</span>
        {compared && <span className="text-focus">- - {compared.name}</span>}
        <span className="ml-auto">dB/Hz</span>
      </p>
      {compared && profile && <DifferenceLine profile={profile} other={compared.profile} name={compared.name} />}
    </div>
  );
}

/** The kept profile that is compared with, read once. */
function useCompared(): { readonly name: string; readonly profile: NoiseProfile } | null {
  const { sampleRateHz } = useWorkbench();
  const chosen = useApp(({ listening }) => listening.comparedProfile);
  const [read, setRead] = useState<{ id: string; name: string; profile: NoiseProfile } | null>(null);
  useEffect(() => {
    if (!chosen) return;
    let current = true;
    getProfileFile(chosen.id).then(
      (file) => current && setRead({ ...chosen, profile: profileFromFile(file, sampleRateHz, 1) }),
      (error: Error) => toast.error(error.message, { id: 'profiles' }),
    );
    return () => {
      current = false;
    };
  }, [chosen, sampleRateHz]);
  return chosen && read?.id === chosen.id ? read : null;
}

function optionsFor(hz: readonly number[], topDb: number, theme: string): ApexOptions {
  return {
    chart: {
      type: 'rangeArea',
      height: HEIGHT,
      animations: { enabled: false },
      toolbar: { show: false },
      zoom: { enabled: false },
      fontFamily: "'Source Sans 3 Variable', sans-serif",
      background: 'transparent',
      foreColor: pageColour('soft'),
    },
    theme: { mode: theme === 'day' ? 'light' : 'dark' },
    fill: { type: 'solid', opacity: [0.16, 1, 1, 1, 1] },
    stroke: { width: [0, 1.5, 1.2, 1, 1.4], curve: 'straight', dashArray: [0, 0, 4, 0, 4] },
    grid: { borderColor: pageColour('faint'), padding: { left: 2, right: 4, top: -22, bottom: -4 } },
    legend: { show: false },
    dataLabels: { enabled: false },
    markers: { size: 0, hover: { size: 0 } },
    tooltip: { enabled: false },
    xaxis: {
      type: 'numeric',
      min: Math.log10(hz[0]!),
      max: Math.log10(hz[hz.length - 1]!),
      labels: { show: false },
      axisTicks: { show: false },
      axisBorder: { color: pageColour('line') },
      tooltip: { enabled: false },
      crosshairs: { show: false },
    },
    yaxis: {
      min: topDb - RANGE_DB,
      max: topDb,
      tickAmount: RANGE_DB / 30,
      labels: { formatter: (value) => formatNumber(value, 0), offsetX: -6, minWidth: 30, maxWidth: 34 },
    },
  };
}
