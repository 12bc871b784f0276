import type { SessionDocument } from '@euphonos/engine';
import { useLayoutEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { formatNumber, formatTime } from '../../../components/figures.js';
import { useApp } from '../../../store/store.js';
import { references, scopeOf } from '../../../workbench/scope.js';
import { asLoudAs, difference, type Bands } from './equal-level.js';
import { SpectrumPicture } from './spectrum-picture.js';
import { useSpectra } from './use-spectra.js';

interface Props {
  readonly document: SessionDocument;
  /** Lines of the table that are chosen: the spectrum is theirs, or that of the mix. */
  readonly chosen: ReadonlySet<string>;
  readonly heading: ReactNode;
}

/** Long-term spectrum of what is chosen or selected, before and after, their difference, and somebody else's beside it. */
export function Spectrum({ document, chosen, heading }: Props) {
  const { tracks, chain, wholeNoise, sampleRateHz } = document;
  const selection = useApp(({ listening }) => listening.selection);
  const [referenceId, setReference] = useState('');
  const [hz, setHz] = useState<number | null>(null);
  const scope = useMemo(
    () => scopeOf(document, chosen),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a mark or a target is nothing to the sound
    [tracks, chain, wholeNoise, chosen],
  );
  const others = references(document, chosen.size === 1 ? [...chosen][0]! : '');
  const known = others.some(({ id }) => id === referenceId) ? referenceId : '';
  const other = useMemo(
    () => (known ? scopeOf(document, new Set([known])) : null),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- as above
    [tracks, chain, wholeNoise, known],
  );
  const { spectra, stale, trouble } = useSpectra(scope, selection);
  const { spectra: otherSpectra } = useSpectra(other, null);
  const box = useRef<HTMLDivElement>(null);
  const [{ width, height }, setSize] = useState({ width: 844, height: 240 });
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) =>
      setSize({ width: entry!.contentRect.width, height: Math.max(120, entry!.contentRect.height - 1) }),
    );
    observer.observe(box.current!);
    return () => observer.disconnect();
  }, []);
  const after = spectra?.after ?? null;
  const shown = useMemo(() => {
    if (!after) return null;
    const before = spectra!.before && asLoudAs(spectra!.before, after);
    const reference = otherSpectra?.after ? asLoudAs(otherSpectra.after, after) : null;
    return {
      before,
      after,
      reference,
      change: before ? difference(after, before) : [],
      missing: reference ? difference(reference, after) : [],
    };
  }, [spectra, after, otherSpectra]);
  const at = (bands: Bands | null): number | undefined => bands?.find((band) => band.hz === hz)?.dbfs;
  const signed = (db: number): string => `${db > 0.05 ? '+' : ''}${formatNumber(db, 1)}`;
  const figure = ((): string => {
    if (!shown || hz === null) return stale && !trouble ? 'measuring …' : 'at equal level · above: dBFS · below: difference';
    const parts = [
      `${hz < 1000 ? hz : `${hz / 1000} k`}Hz`,
      `${formatNumber(at(shown.after)!, 1)} dBFS`,
      ...(at(shown.change) === undefined ? [] : [`${signed(at(shown.change)!)} dB by what is done`]),
      ...(at(shown.missing) === undefined ? [] : [`${other!.words} ${signed(at(shown.missing)!)} dB`]),
    ];
    return parts.join(' · ');
  })();
  return (
    <>
      <div className="flex items-baseline gap-3 pt-1 pb-1">
        {heading}
        <span className="truncate text-[12px] text-soft" data-scope>
          of {scope.words}
          {selection && `, ${formatTime(selection.startFrame / sampleRateHz, 1)}–${formatTime(selection.endFrame / sampleRateHz, 1)}`}
        </span>
        <span className="ml-auto shrink-0 text-[12px] text-soft" data-band={hz ?? ''}>
          {trouble ?? figure}
        </span>
        {others.length > 0 && (
          <label className="flex shrink-0 items-baseline gap-1 text-[12px] text-soft">
            beside
            <select
              aria-label="Beside the spectrum of"
              className="max-w-[150px] rounded-sheet border border-line bg-paper px-1 text-ink"
              value={known}
              onChange={({ target }) => setReference(target.value)}
            >
              <option value="">none</option>
              {others.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        )}
      </div>
      <div
        ref={box}
        className={`min-h-[180px] grow border-y border-line ${stale ? 'opacity-60' : ''}`}
        data-spectrum={shown ? 'ready' : 'coming'}
      >
        {shown && <SpectrumPicture width={width} height={height} {...shown} onBand={setHz} />}
        {spectra && !after && <p className="m-0 p-3 text-[13px] text-soft">Silence: nothing to measure.</p>}
      </div>
    </>
  );
}
