import { LOWEST_HZ, type FrequencyAxis } from '@euphonos/dsp';
import type { StripStyle } from '../../drawing/draw-strip.js';
import { formatNumber } from '../../components/figures.js';

const FREQUENCIES = [100, 200, 500, 1000, 2000, 5000, 10000, 20000, 40000];

/** The frequency at a place from the top of a strip, 0 … 1. */
export function hzAt(place: number, topHz: number, axis: FrequencyAxis): number {
  const share = 1 - Math.max(0, Math.min(1, place));
  return axis === 'linear' ? share * topHz : LOWEST_HZ * (topHz / LOWEST_HZ) ** share;
}

/** Place of a frequency from the top of a strip, 0 … 1. */
export function placeOf(hz: number, topHz: number, axis: FrequencyAxis): number {
  return axis === 'linear' ? 1 - hz / topHz : 1 - Math.log(hz / LOWEST_HZ) / Math.log(topHz / LOWEST_HZ);
}

/** The vertical scale at the right edge of a strip: frequencies, or levels of the wave. */
export function Scale({ sampleRateHz, style }: { readonly sampleRateHz: number; readonly style: StripStyle }) {
  const marks =
    style.picture === 'spectrogram'
      ? FREQUENCIES.filter((hz) => hz < sampleRateHz / 2 && (style.axis === 'log' ? [100, 500, 2000, 10000].includes(hz) : hz >= 5000)).map(
          (hz) => ({
            share: placeOf(hz, sampleRateHz / 2, style.axis),
            text: hz < 1000 ? `${hz}` : `${hz / 1000} k`,
          }),
        )
      : style.waveScale === 'decibel'
        ? [0.75, 0.5, 0.25].map((part) => ({ share: 0.5 - part / 2, text: formatNumber(style.waveFloorDbfs * (1 - part), 0) }))
        : [{ share: 0.08, text: `${formatNumber(style.waveHeightDbfs, 0)} dBFS` }];
  return (
    <div aria-hidden className="pointer-events-none absolute inset-y-0 right-0 w-10 text-right text-[11px] text-soft">
      {marks.map(({ share, text }) => (
        <span
          key={text}
          className="absolute right-1 -translate-y-1/2 whitespace-nowrap rounded-sheet bg-sheet px-0.5 leading-none"
          style={{ top: `${share * 100}%` }}
        >
          {text}
        </span>
      ))}
    </div>
  );
}
