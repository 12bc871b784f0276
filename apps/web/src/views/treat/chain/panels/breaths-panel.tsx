import { breathRow, parametersOf, treatedBreaths, type Breath } from '@euphonos/dsp';
import { breathsEdit, type Edit } from '@euphonos/engine';
import { toast } from 'sonner';
import { useKeys } from '../../../../shell/use-keys.js';
import { edited } from '../../../../store/session-slice.js';
import { useAppDispatch } from '../../../../store/store.js';
import { useWorkbench } from '../../../../workbench/workbench-context.js';
import { useRoomTone } from '../../clips/use-room-tone.js';
import { ApplyBox } from './apply-box.js';
import type { PanelProps } from './panel.js';
import { SpansPanel, type SpansOf } from './spans-panel.js';
import { useTaken } from './use-taken.js';

/** Breaths: lowered as they are heard, or replaced by room tone at a stroke. */
export function BreathsPanel({ track, settings, set }: PanelProps) {
  const { sampleRateHz } = useWorkbench();
  const dispatch = useAppDispatch();
  const roomTone = useRoomTone();
  const taken = useTaken(track);
  const fills = settings['way'] === 'tone';
  const middle = ({ startSeconds, endSeconds }: Breath): number => Math.round(((startSeconds + endSeconds) / 2) * sampleRateHz);
  const apply = async (): Promise<void> => {
    const tone = fills ? await roomTone.tone() : null;
    const edit = breathsEdit(track, settings, sampleRateHz, tone);
    if (edit) dispatch(edited(edit as Edit));
    else if (!fills) toast('Breaths are lowered while you listen; set the way to room tone to replace them.', { id: 'breaths' });
  };
  useKeys('p', () => void apply());
  const about: SpansOf<Breath> = {
    list: 'breaths',
    one: 'breath',
    many: 'breaths',
    found: (findings) => findings.flatMap((finding) => (finding.kind === 'breaths' ? finding.spans.map(breathRow) : [])),
    words: ({ certaintyPercent }) => ` · ${certaintyPercent} % sure`,
    spared: ({ certaintyPercent }) => (certaintyPercent < (settings['leastPercent'] as number) ? 'not sure enough' : null),
    ...(fills ? { treated: 'to fill' } : {}),
    taken: (breath) => taken(middle(breath)),
  };
  const count = fills ? treatedBreaths(parametersOf(settings) as never).filter((breath) => taken(middle(breath)) === null).length : 0;
  return (
    <>
      {fills && (
        <ApplyBox count={count} words={count === 1 ? 'breath' : 'breaths'} onApply={() => void apply()}>
          Fill with room tone
        </ApplyBox>
      )}
      <SpansPanel settings={settings} set={set} about={about} />
    </>
  );
}
