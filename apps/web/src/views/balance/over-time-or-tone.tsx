import type { SessionDocument } from '@euphonos/engine';
import { useState } from 'react';
import { useKeys } from '../../shell/use-keys.js';
import { LoudnessOverTime } from './loudness/loudness-over-time.js';
import { Spectrum } from './spectrum/spectrum.js';

interface Props {
  readonly document: SessionDocument;
  readonly chosen: ReadonlySet<string>;
}
const SHOWN = [
  ['time', 'Loudness'],
  ['tone', 'Spectrum'],
] as const;

/** Below the table: loudness over time of what is chosen, or its long-term spectrum. */
export function OverTimeOrTone({ document, chosen }: Props) {
  const [shown, setShown] = useState<'time' | 'tone'>('time');
  useKeys('shift_s', () => setShown(shown === 'time' ? 'tone' : 'time'));
  const heading = (
    <h2 className="m-0 flex shrink-0 items-baseline gap-2 text-[17px]">
      {SHOWN.map(([which, title]) => (
        <button
          key={which}
          type="button"
          aria-pressed={shown === which}
          title="Loudness over time, or the long-term spectrum (⇧S)"
          className={shown === which ? '' : 'font-normal text-soft hover:text-ink'}
          onClick={() => setShown(which)}
        >
          {title}
        </button>
      ))}
    </h2>
  );
  const View = shown === 'time' ? LoudnessOverTime : Spectrum;
  return <View document={document} chosen={chosen} heading={heading} />;
}
