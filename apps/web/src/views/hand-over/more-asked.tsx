import { CEILING_RANGE_DBTP, RANGE_RANGE_LU, RMS_RANGE_DBFS, type DeliveryTarget } from '@euphonos/engine';
import { Ruler } from '../../components/ruler.js';
import { Asked } from './asked.js';

/** What the rulers start from when a requirement is turned on. Common practice, no source. */
const START = { rmsDbfs: [-23, -18], samplePeakDbfs: -3, rangeLu: 10 } as const;

interface Props {
  readonly target: DeliveryTarget;
  readonly onChange: (part: Partial<DeliveryTarget>) => void;
}

/** What fewer deliveries ask for: a window of the RMS level, the highest sample, the widest loudness range. */
export function MoreAsked({ target: { rmsDbfs, samplePeakDbfs, rangeLu }, onChange }: Props) {
  return (
    <>
      <Asked title="Ask for an RMS level" on={rmsDbfs !== null} onChange={(on) => onChange({ rmsDbfs: on ? START.rmsDbfs : null })} />
      {rmsDbfs &&
        (['from', 'to'] as const).map((edge, i) => (
          <Ruler
            key={edge}
            title={`RMS ${edge}`}
            unit="dBFS"
            value={rmsDbfs[i]!}
            min={RMS_RANGE_DBFS[0]}
            max={RMS_RANGE_DBFS[1]}
            step={0.5}
            scale="linear"
            practice={[-23, -18]}
            sentence="Without a loudness, the gain aims at the middle of this window."
            onChange={(value) =>
              onChange({ rmsDbfs: i === 0 ? [Math.min(value, rmsDbfs[1]), rmsDbfs[1]] : [rmsDbfs[0], Math.max(value, rmsDbfs[0])] })
            }
          />
        ))}
      <Asked
        title="Ask for a highest sample"
        on={samplePeakDbfs !== null}
        onChange={(on) => onChange({ samplePeakDbfs: on ? START.samplePeakDbfs : null })}
      />
      {samplePeakDbfs !== null && (
        <Ruler
          title="Sample peak"
          unit="dBFS"
          value={samplePeakDbfs}
          min={CEILING_RANGE_DBTP[0]}
          max={CEILING_RANGE_DBTP[1]}
          step={0.1}
          scale="linear"
          practice={[-3, -1]}
          sentence="Highest sample; a true-peak ceiling as low holds it, too."
          onChange={(value) => onChange({ samplePeakDbfs: value })}
        />
      )}
      <Asked title="Ask for a loudness range" on={rangeLu !== null} onChange={(on) => onChange({ rangeLu: on ? START.rangeLu : null })} />
      {rangeLu !== null && (
        <Ruler
          title="Range"
          unit="LU"
          value={rangeLu}
          min={RANGE_RANGE_LU[0]}
          max={RANGE_RANGE_LU[1]}
          step={0.5}
          scale="linear"
          practice={[5, 15]}
          sentence="Widest loudness range (EBU Tech 3342)."
          onChange={(value) => onChange({ rangeLu: value })}
        />
      )}
    </>
  );
}
