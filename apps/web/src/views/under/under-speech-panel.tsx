import { depthFor, talkRows } from '@euphonos/engine';
import { useState } from 'react';
import { formatNumber, setMinus } from '../../components/figures.js';
import { ValueBox } from '../../components/value-box.js';
import { edited } from '../../store/session-slice.js';
import { useAppDispatch } from '../../store/store.js';
import { useChainOwner } from '../treat/chain/chain-owner.js';
import type { PanelProps } from '../treat/chain/panels/panel.js';
import { GainToLine } from '../treat/chain/panels/gain-to-line.js';
import { useKeying, useSpeechInMix } from './use-speech-in-mix.js';
import { USUAL_UNDER_LU } from './bed-levels.js';

/** Who lowers a bed, how far speech stands above it, and what brings it where it is wished. */
export function UnderSpeechPanel({ track, settings, set }: PanelProps) {
  const dispatch = useAppDispatch();
  const owner = useChainOwner(track);
  const { speakers, over, stale, trouble } = useSpeechInMix(track);
  const { keyed, moved, counted } = useKeying(settings, speakers);
  const [wishLu, setWishLu] = useState(USUAL_UNDER_LU);
  const depthDb = settings['depthDb'] as number;
  if (owner.trackId !== track.id || owner.clipId !== undefined)
    return <p className="m-0 mb-1 text-[12px] text-soft">It belongs into the chain of the bed’s own track: there it knows who speaks.</p>;
  if (trouble) return <p className="m-0 mb-1 text-[12px] text-removed">{trouble}</p>;
  if (!speakers) return <p className="m-0 mb-1 text-[12px] text-soft">Listening who speaks when …</p>;
  if (speakers.length === 0)
    return <p className="m-0 mb-1 text-[12px] text-soft">There is no track of speech beside it that is not muted.</p>;
  const take = (ids: ReadonlySet<string>): void => {
    const talk = talkRows(speakers.filter(({ track: { id } }) => ids.has(id)).map((speaker) => speaker.talk));
    dispatch(edited({ type: 'set-parameters', ...owner, treatmentId: settings.id!, values: { talk } }));
  };
  const toggle = (id: string): void => take(new Set(keyed.has(id) ? [...keyed].filter((other) => other !== id) : [...keyed, id]));
  const wished = over?.overLu == null ? null : depthFor(wishLu, over.overLu, counted === 0 || settings.bypassed ? 0 : depthDb);
  return (
    <div className="mb-1 text-[12px]" data-under-speech={stale ? 'coming' : 'ready'}>
      <p className="m-0 flex flex-wrap items-baseline gap-x-2">
        <span className="text-soft">Lowered by</span>
        {speakers.map(({ track: { id, name }, talk }) => (
          <button
            key={id}
            type="button"
            aria-pressed={keyed.has(id)}
            disabled={talk.length === 0}
            title={talk.length === 0 ? 'Nobody is heard speaking on it' : undefined}
            className={`press px-1.5! py-0! ${keyed.has(id) ? 'border-ink! font-semibold' : 'text-soft'}`}
            onClick={() => toggle(id)}
          >
            {name}
          </button>
        ))}
        {counted === 0 && (
          <button type="button" className="press-strong px-1.5! py-0!" onClick={() => take(keyed)}>
            Take who speaks
          </button>
        )}
      </p>
      {moved && (
        <p className="m-0 flex items-baseline gap-2 pt-1 text-removed">
          <span className="grow">Speech has moved since.</span>
          <button type="button" className="press py-0!" onClick={() => take(keyed)}>
            Take it again
          </button>
        </p>
      )}
      {over?.overLu != null && (
        <p className="m-0 flex flex-wrap items-baseline gap-x-2 pt-1">
          <span className="grow">
            Speech stands{' '}
            <b className="text-result" data-over>
              {setMinus(formatNumber(over.overLu, 1))} LU
            </b>{' '}
            above it{stale ? ' … ' : ''}
          </span>
          <ValueBox
            title="Speech above the bed"
            text={`${wishLu} LU`}
            value={wishLu}
            disabled={false}
            onChange={(lu) => setWishLu(Math.max(0, Math.min(40, lu)))}
          />
          <button
            type="button"
            className="press py-0!"
            disabled={stale || wished === null || counted === 0}
            title="Down by as much as it takes"
            onClick={() => set('depthDb', wished!)}
          >
            Make it so
          </button>
        </p>
      )}
      {counted > 0 && settings['band'] === 'all' && (
        <p className="m-0 pt-1">
          <GainToLine track={track} settings={settings} />
        </p>
      )}
    </div>
  );
}
