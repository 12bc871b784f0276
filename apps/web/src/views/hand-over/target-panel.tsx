import { CEILING_RANGE_DBTP, LOUDNESS_RANGE_LUFS, mixChannels, mixedTracks, targets, type DeliveryTarget } from '@euphonos/engine';
import { RadioGroup } from 'radix-ui';
import type { ReactNode } from 'react';
import { formatNumber } from '../../components/figures.js';
import { Ruler } from '../../components/ruler.js';
import { edited } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { Asked } from './asked.js';
import { EdgesAsked } from './edges-asked.js';
import { FilePanel } from './file-panel.js';
import { MoreAsked } from './more-asked.js';
import { NameAndTags } from './name-and-tags.js';
import { TargetFiles } from './target-files.js';

const OWN = 'Own target';
/** What the rulers start from when a requirement is turned on. */
const START = { integratedLufs: -16, noiseFloorDbfs: -60 } as const;

const lufsOf = ({ integratedLufs, rmsDbfs }: DeliveryTarget): string =>
  integratedLufs !== null
    ? formatNumber(integratedLufs, 0)
    : rmsDbfs
      ? `${formatNumber(rmsDbfs[0], 0)} … ${formatNumber(rmsDbfs[1], 0)}`
      : 'as it is';

/** What the delivery must meet: a usual target, or one's own. */
export function TargetPanel({ children }: { readonly children: ReactNode }) {
  const target = useApp(({ session }) => session!.history!.present.target);
  const sampleRateHz = useApp(({ session }) => session!.history!.present.sampleRateHz);
  const channels = useApp(({ session }) => mixChannels(mixedTracks(session!.history!.present)));
  const figures = useApp(({ session }) => session!.recording.facts!.figures);
  const dispatch = useAppDispatch();
  const set = (next: DeliveryTarget): void => {
    dispatch(edited({ type: 'set-target', target: next }));
  };
  const own = (part: Partial<DeliveryTarget>): void => set({ ...target, ...part, name: OWN });
  const listed = target.name === OWN ? [...targets, target] : targets;
  const measured = (value: number | null, words: string) => (value === null ? undefined : { value, words });
  return (
    <section aria-label="Target" className="flex w-[396px] shrink-0 flex-col border-r border-line bg-sheet">
      <div className="min-h-0 grow overflow-y-auto px-4 py-3">
        <h1 className="m-0 mb-2 text-[18px]">Target</h1>
        <RadioGroup.Root
          aria-label="Target"
          value={target.name}
          onValueChange={(name) => set({ ...listed.find((each) => each.name === name)!, namePattern: target.namePattern })}
          className="mb-3"
        >
          <div className="grid grid-cols-[1fr_100px_50px] border-b border-line pb-0.5 pl-6 text-right text-[12px] text-soft">
            <span />
            <span>LUFS</span>
            <span>dBTP</span>
          </div>
          {listed.map((each) => (
            <RadioGroup.Item
              key={each.name}
              value={each.name}
              className="group grid w-full grid-cols-[24px_1fr_100px_50px] items-center border-b border-faint py-1.5 text-left hover:bg-faint"
            >
              <i className="ml-1 block size-2.5 rounded-full border border-ink group-data-[state=checked]:bg-ink" />
              <span className="group-data-[state=checked]:font-semibold">{each.name}</span>
              <span className="text-right">
                {lufsOf(each)}{' '}
                {each.integratedLufs !== null ? (
                  <span className="text-[12px] text-soft">±{each.toleranceLu}</span>
                ) : (
                  each.rmsDbfs && <span className="text-[12px] text-soft">RMS</span>
                )}
              </span>
              <span className="text-right">{formatNumber(each.ceilingDbtp, 1)}</span>
            </RadioGroup.Item>
          ))}
        </RadioGroup.Root>
        <TargetFiles target={target} onRead={set} />
        <Asked
          title="Bring to a loudness"
          on={target.integratedLufs !== null}
          onChange={(on) => own({ integratedLufs: on ? START.integratedLufs : null })}
        />
        {target.integratedLufs !== null && (
          <>
            <Ruler
              title="Loudness"
              unit="LUFS"
              value={target.integratedLufs}
              min={LOUDNESS_RANGE_LUFS[0]}
              max={LOUDNESS_RANGE_LUFS[1]}
              step={0.5}
              scale="linear"
              practice={[-24, -14]}
              measured={measured(figures.integratedLufs, `The recording: ${formatNumber(figures.integratedLufs ?? 0, 1)} LUFS`)}
              sentence="Integrated loudness that the fixed gain aims at."
              onChange={(integratedLufs) => own({ integratedLufs })}
            />
            <Ruler
              title="Tolerance"
              unit="LU"
              value={target.toleranceLu}
              min={0.1}
              max={5}
              step={0.1}
              scale="linear"
              practice={[0.5, 1]}
              sentence="Accepted distance from it, either way."
              onChange={(toleranceLu) => own({ toleranceLu })}
            />
          </>
        )}
        <Ruler
          title="Ceiling"
          unit="dBTP"
          value={target.ceilingDbtp}
          min={CEILING_RANGE_DBTP[0]}
          max={CEILING_RANGE_DBTP[1]}
          step={0.1}
          scale="linear"
          practice={[-3, -1]}
          measured={measured(figures.truePeakDbtp, `The recording: ${formatNumber(figures.truePeakDbtp ?? 0, 1)} dBTP`)}
          sentence="Highest true peak; the limiter works only as far as this needs."
          onChange={(ceilingDbtp) => own({ ceilingDbtp })}
        />
        <Asked
          title="Ask for a noise floor"
          on={target.noiseFloorDbfs !== null}
          onChange={(on) => own({ noiseFloorDbfs: on ? START.noiseFloorDbfs : null })}
        />
        {target.noiseFloorDbfs !== null && (
          <Ruler
            title="Floor"
            unit="dBFS"
            value={target.noiseFloorDbfs}
            min={-100}
            max={-30}
            step={1}
            scale="linear"
            practice={[-70, -60]}
            measured={measured(figures.noiseFloorDbfs, `The recording: ${formatNumber(figures.noiseFloorDbfs ?? 0, 1)} dBFS`)}
            sentence="Highest level of the gaps in the file that is handed over, after the gain."
            onChange={(noiseFloorDbfs) => own({ noiseFloorDbfs })}
          />
        )}
        <MoreAsked target={target} onChange={own} />
        <EdgesAsked edges={target} onChange={own} />
        <FilePanel file={target.file} sessionHz={sampleRateHz} mixChannels={channels} onChange={(file) => own({ file })} />
        <NameAndTags target={target} onChange={(part) => set({ ...target, ...part })} />
      </div>
      <div className="shrink-0 border-t border-line px-4 pt-1 pb-3">{children}</div>
    </section>
  );
}
