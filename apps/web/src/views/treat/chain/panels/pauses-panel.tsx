import {
  loweredPart,
  parametersOf,
  suggestPauseThresholds,
  takenPart,
  takenPauses,
  type ListRow,
  type Pause,
  type PauseRules,
} from '@euphonos/dsp';
import { endOf, pausesEdit, type Edit } from '@euphonos/engine';
import { useMemo } from 'react';
import { toast } from 'sonner';
import { formatNumber, formatTime, setMinus } from '../../../../components/figures.js';
import { useKeys } from '../../../../shell/use-keys.js';
import { edited } from '../../../../store/session-slice.js';
import { useAppDispatch } from '../../../../store/store.js';
import { useWorkbench } from '../../../../workbench/workbench-context.js';
import { useChainOwner } from '../chain-owner.js';
import { useClipEdits } from '../../clips/use-clip-edits.js';
import { useRoomTone } from '../../clips/use-room-tone.js';
import { ApplyBox } from './apply-box.js';
import type { PanelProps } from './panel.js';
import { SpansPanel, type SpansOf } from './spans-panel.js';
import { useTaken } from './use-taken.js';
import { foundRows, useLevels, useQuiet } from './use-found-pauses.js';

/** What is to be made of a pause, by the way that is set. */
const TO_MAKE: Readonly<Record<string, string>> = { close: 'to cut', shorten: 'to shorten', gap: 'to cut', tone: 'to fill' };
/** Pauses: found by thresholds and voice, excepted one by one, and cut, shortened or filled at a stroke. */
export function PausesPanel({ track, settings, set }: PanelProps) {
  const { sampleRateHz } = useWorkbench();
  const dispatch = useAppDispatch();
  const { aligned } = useClipEdits();
  const owner = useChainOwner(track);
  const roomTone = useRoomTone();
  const found = useLevels(true);
  const quiet = useQuiet();
  const values = parametersOf(settings) as never;
  const rows = settings['pauses'] as readonly ListRow[];
  const suggested = useMemo(() => found && quiet && suggestPauseThresholds(found.levels, found.stepSeconds, quiet), [found, quiet]);
  const taken = useTaken(track);
  const lowers = settings['way'] === 'lower';

  const take = (thresholds: Partial<PauseRules>): void => {
    if (!found || !quiet) return;
    const rules = { ...settings, ...thresholds } as unknown as PauseRules;
    dispatch(
      edited({
        type: 'set-parameters',
        ...owner,
        treatmentId: settings.id!,
        values: { ...thresholds, pauses: foundRows(found.levels, found.stepSeconds, quiet, rules, rows) },
      }),
    );
  };
  const apply = async (): Promise<void> => {
    const tone = settings['way'] === 'tone' ? await roomTone.tone() : null;
    const made = pausesEdit(track, settings, sampleRateHz, tone);
    if (!made) {
      if (settings['way'] !== 'tone' || tone)
        toast(
          lowers
            ? 'Pauses are lowered while you listen; choose another way to cut or fill them.'
            : 'There is no pause left to treat that way.',
          { id: 'pauses' },
        );
      return;
    }
    // Cuts are aligned one after the other: of a long recording it takes a moment.
    const edit = made.type === 'cut-spans' && made.close ? { ...made, spans: await aligned(made.spans) } : made;
    dispatch(edited(edit as Edit));
    toast(
      `${'title' in made && made.title ? made.title : 'Done'}. Each can be given back: J goes through them, X gives back. Ctrl Z takes all of it back.`,
      { id: 'pauses' },
    );
  };
  useKeys('p', () => void apply());

  const middle = (pause: Pause): number => {
    const part = takenPart(pause, values) ?? pause;
    return Math.round(((part.startSeconds + part.endSeconds) / 2) * sampleRateHz);
  };
  const about: SpansOf<Pause> = {
    list: 'pauses',
    one: 'pause',
    many: 'pauses',
    found: () => [],
    words: () => '',
    spared: (pause) => (loweredPart(pause, values) === null ? 'too short' : takenPart(pause, values) === null ? 'short enough' : null),
    ...(lowers ? {} : { treated: TO_MAKE[settings['way'] as string]! }),
    taken: (pause) => taken(middle(pause)),
  };
  const spans = takenPauses(values).filter(
    ({ startSeconds, endSeconds }) => taken(Math.round(((startSeconds + endSeconds) / 2) * sampleRateHz)) === null,
  );
  const seconds = spans.reduce((sum, { startSeconds, endSeconds }) => sum + endSeconds - startSeconds, 0);
  const shorter = settings['way'] === 'close' || settings['way'] === 'shorten';

  if (rows.length === 0)
    return (
      <p className="m-0 mb-1 flex items-baseline gap-2 text-[12px]">
        <span className="grow text-soft">
          {!found || !quiet
            ? 'The survey is still listening.'
            : suggested
              ? setMinus(`Gaps here stay under ${suggested.closeDbfs} dBFS.`)
              : 'The survey hears no pause in this recording.'}
        </span>
        {found && quiet && (
          <button type="button" className="press py-0!" onClick={() => take(suggested ?? {})}>
            Find them
          </button>
        )}
      </p>
    );
  return (
    <>
      {!lowers && (
        <ApplyBox
          count={spans.length}
          words={`${spans.length === 1 ? 'pause' : 'pauses'}, ${formatNumber(seconds, 1)} s${shorter ? ` shorter: ${formatTime(Math.max(0, endOf(track.clips) / sampleRateHz - seconds), 1)} in all` : ''}`}
          onApply={() => void apply()}
        >
          {{ close: 'Cut them', shorten: 'Shorten them', gap: 'Cut, leave gaps', tone: 'Fill with room tone' }[settings['way'] as string]}
        </ApplyBox>
      )}
      <SpansPanel settings={settings} set={set} about={about} />
      {suggested &&
        (settings['decides'] === 'voice' ||
        (suggested.closeDbfs === settings['closeDbfs'] && suggested.openDbfs === settings['openDbfs']) ? null : (
          <p className="m-0 mb-1 flex items-baseline gap-2 text-[12px] text-soft">
            <span className="grow">
              {setMinus(`From the gaps here: words above ${suggested.openDbfs}, pauses below ${suggested.closeDbfs} dBFS.`)}
            </span>
            <button type="button" className="press py-0!" onClick={() => take(suggested)}>
              Take
            </button>
          </p>
        ))}
    </>
  );
}
