import { needsProfile } from '@euphonos/dsp';
import { useState } from 'react';
import { Choice } from '../../../../components/choice.js';
import { SecondPass } from './second-pass.js';
import { NoiseChart } from './noise-chart.js';
import type { PanelProps } from './panel.js';
import { TradeOff } from './trade-off.js';

/** What noise reduction costs, and what it knows of the noise: one chart at a time. */
export function NoisePanel({ track, settings, set }: PanelProps) {
  const [shown, setShown] = useState<'price' | 'noise'>('price');
  const waits = needsProfile(settings) && track.noise === null;
  return (
    <div className="mb-1.5">
      <div className="pb-1 text-[12px]">
        <Choice
          label="Chart"
          value={shown}
          onChange={setShown}
          choices={[
            { value: 'price', title: 'Trade-off', hint: 'Noise taken against voice lost' },
            { value: 'noise', title: 'Noise over frequency', hint: 'The profile, the words, and a curve of what remains' },
          ]}
        />
      </div>
      {waits ? (
        <p className="m-0 text-[12px] text-soft" role="status">
          Trade-off and noise are drawn as soon as there is a profile.
        </p>
      ) : shown === 'price' ? (
        <TradeOff settings={settings} set={set} />
      ) : (
        <NoiseChart settings={settings} set={set} />
      )}
      <SecondPass track={track} settings={settings} />
    </div>
  );
}
