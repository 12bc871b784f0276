import { harmonicsOf } from '@euphonos/dsp';
import { formatNumber } from '../../../../components/figures.js';
import { useSpectra } from '../../../../workbench/workbench-context.js';
import type { Spectra } from '../../../../passage/figures-computer.js';
import type { HzAxis } from '../../../../drawing/hz-axis.js';
import type { PanelProps } from './panel.js';
import { CHART_WIDTH, hzToX, levelNear, SpectrumChart, xToHz } from './spectrum-chart.js';

const AXIS: HzAxis = { lowHz: 30, highHz: 1600 };
const HEIGHT = 92;
const SHOWN = 16;
/** Dragging looks for the spike within this many pixels. */
const CATCH_PX = 7;

/** The lines of a hum on the spectrum, each with its level before and after and a switch; the base is dragged onto a spike. */
export function HumPanel({ settings, set }: PanelProps) {
  const all = useSpectra();
  const spectra = all?.gaps;
  const baseHz = settings['baseHz'] as number;
  const on = harmonicsOf(settings['harmonics'] as number, settings['harmonicsOn']);
  const shown = Array.from({ length: SHOWN }, (_, i) => i + 1).filter((harmonic) => harmonic * baseHz < AXIS.highHz * 1.6);
  const toggle = (harmonic: number): void => {
    const next = on.includes(harmonic) ? on.filter((other) => other !== harmonic) : [...on, harmonic].sort((a, b) => a - b);
    if (next.length > 0) set('harmonicsOn', next);
  };
  const onPointer = (_: string, x: number): void => {
    const hz = xToHz(AXIS, x);
    set('baseHz', Number((spectra ? spikeNear(spectra.source, spectra.binHz, x) : hz).toFixed(1)));
  };
  /** Those whose line stands out of the spectrum beside it. */
  const fewest = (): void => {
    if (!spectra) return;
    const standing = shown.filter((harmonic) => standsOut(spectra.source, spectra.binHz, harmonic * baseHz));
    if (standing.length > 0) set('harmonicsOn', standing);
  };
  return (
    <div className="mb-1">
      <SpectrumChart
        axis={AXIS}
        height={HEIGHT}
        of="gaps"
        label="Spectrum between the words, with the lines of the hum"
        onPointer={onPointer}
      >
        {on
          .filter((harmonic) => harmonic * baseHz < AXIS.highHz)
          .map((harmonic) => (
            <line
              key={harmonic}
              x1={hzToX(AXIS, harmonic * baseHz)}
              x2={hzToX(AXIS, harmonic * baseHz)}
              y1={0}
              y2={HEIGHT}
              className="stroke-removed"
              strokeWidth={harmonic === 1 ? 2 : 1}
            />
          ))}
      </SpectrumChart>
      <div className="mb-1 flex items-center gap-3 text-[12px]">
        <span className="text-soft">Between the words. Drag onto a spike.</span>
        <button
          type="button"
          className="press ml-auto py-0!"
          disabled={!spectra}
          onClick={fewest}
          title="Switches on the harmonics that stand out, and no others"
        >
          Fewest
        </button>
        <button type="button" className="press py-0!" onClick={() => set('harmonicsOn', [1])} title="For a stray tone">
          One tone
        </button>
      </div>
      <div className="grid grid-cols-4 gap-1" role="group" aria-label="Harmonics">
        {shown.map((harmonic) => {
          const hz = harmonic * baseHz;
          const before = levelNear(spectra?.source, spectra?.binHz ?? 1, hz);
          const after = levelNear(spectra?.result, spectra?.binHz ?? 1, hz);
          const active = on.includes(harmonic);
          return (
            <button
              key={harmonic}
              type="button"
              role="switch"
              aria-checked={active}
              aria-label={`Harmonic ${harmonic}, ${formatNumber(hz, 0)} Hz`}
              onClick={() => toggle(harmonic)}
              className={`rounded-sheet border px-1.5 py-0.5 text-left text-[11px] leading-tight ${active ? 'border-removed' : 'border-line text-soft'}`}
            >
              <b className={`block font-semibold ${active ? 'text-removed' : ''}`}>{formatNumber(hz, 0)} Hz</b>
              {settings.kind === 'hum-notch' && spectra && (
                <span className="float-right text-soft" title="What a notch of this width takes out of the talk, against all of it">
                  {formatNumber(costDb(all!, hz, settings['widthHz'] as number), 0)}
                </span>
              )}
              {before === null ? '–' : formatNumber(before, 0)} → {after === null ? '–' : formatNumber(after, 0)} dB
            </button>
          );
        })}
      </div>
    </div>
  );
}

/** Power of the talk within the noise bandwidth of a notch (π / 2 of its width), against all of it, in dB. */
function costDb({ source, binHz }: Spectra, hz: number, widthHz: number): number {
  let whole = 0;
  for (let k = 1; k < source.length; k++) whole += 10 ** (source[k]! / 10);
  const near = [-2, -1, 1, 2].reduce((sum, d) => sum + 10 ** ((source[Math.round(hz / binHz) + d] ?? -200) / 10), 0) / 4;
  return 10 * Math.log10((near * widthHz * (Math.PI / 2)) / binHz / whole + 1e-12);
}

/** The frequency of the strongest bin near a place, between bins by a parabola. */
function spikeNear(levels: Float32Array, binHz: number, x: number): number {
  const from = Math.max(1, Math.floor(xToHz(AXIS, x - CATCH_PX) / binHz));
  const to = Math.min(levels.length - 2, Math.ceil(xToHz(AXIS, Math.min(CHART_WIDTH, x + CATCH_PX)) / binHz));
  let best = from;
  for (let k = from; k <= to; k++) if (levels[k]! > levels[best]!) best = k;
  const [a, b, c] = [levels[best - 1]!, levels[best]!, levels[best + 1]!];
  const bend = a - 2 * b + c;
  return (best + (bend < 0 ? (a - c) / (2 * bend) : 0)) * binHz;
}

function standsOut(levels: Float32Array, binHz: number, hz: number): boolean {
  const middle = Math.round(hz / binHz);
  const around = [-5, -4, -3, 3, 4, 5].map((d) => levels[middle + d] ?? -200).sort((a, b) => a - b);
  return (levelNear(levels, binHz, hz) ?? -200) > (around[3] ?? 0) + 6;
}
