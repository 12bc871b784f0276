import { speechBand, spreadLu } from '@euphonos/engine';
import { useEffect, useState } from 'react';
import { Notice } from '../../components/notice.js';
import { formatNumber } from '../../components/figures.js';
import { useKeys } from '../../shell/use-keys.js';
import { changed } from '../../store/listening-slice.js';
import { activeTrack, redone, undone } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { ChainColumn } from '../treat/chain/chain-column.js';
import { BedLength } from '../under/bed-length.js';
import { BleedLine } from '../under/bleed-line.js';
import { BedLine } from '../under/bed-line.js';
import { givesWay, USUAL_UNDER_LU } from '../under/bed-levels.js';
import { DcOut } from './dc-out.js';
import { LevelsTable } from './levels-table.js';
import { MatchBar } from './match-bar.js';
import { OverTimeOrTone } from './over-time-or-tone.js';
import { useBalance } from './use-balance.js';
import { useTalk } from './use-talk.js';

/** Everybody on one loudness ruler, the mix over time below it; beside them the chain on the whole. */
export function Balance() {
  const document = useApp(({ session }) => session!.history!.present);
  const active = useApp(({ session }) => activeTrack(session))!;
  const dispatch = useAppDispatch();
  const { tracks, trouble } = useBalance(document);
  const talk = useTalk(document);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [underLu, setUnderLu] = useState(USUAL_UNDER_LU);
  // What is balanced is heard together.
  useEffect(() => void dispatch(changed({ together: true, aside: null })), [dispatch]);
  useKeys('mod_z', () => dispatch(undone()), { preventDefault: true });
  useKeys('mod_shift_z mod_y', () => dispatch(redone()), { preventDefault: true });
  useKeys('escape', () => {
    setChosen(new Set());
    dispatch(changed({ selection: null }));
  });
  const solo = useApp(({ listening }) => listening.solo);
  const people = document.tracks.flatMap(({ id, role }) => (role === 'speech' ? [id] : []));
  const hasBed = people.length > 0 && people.length < document.tracks.length;
  const withoutBed = hasBed && solo.length === people.length && people.every((id) => solo.includes(id));
  // For the ear alone: what of the noise is heard where the bed does not hide it.
  const bed = (): void => {
    if (hasBed) dispatch(changed({ solo: withoutBed ? [] : people }));
  };
  useKeys('b', bed);
  const { ceilingDbtp } = document.target;
  const target = speechBand(document.target);
  const lines = tracks.flatMap(({ track, line, clips }) =>
    [...(line ? [line] : []), ...clips].map((one) => ({
      ...one,
      bed: track.role === 'bed',
      givesWay: givesWay(track),
      muted: track.muted,
    })),
  );
  const wanted = lines.filter(({ trackId, clipId, muted }) =>
    chosen.size > 0 ? chosen.has(`${trackId}/${clipId ?? ''}`) : clipId === null && !muted,
  );
  const choose = (id: string): void =>
    setChosen((before) => new Set(before.has(id) ? [...before].filter((other) => other !== id) : [...before, id]));
  const speech = tracks.filter(({ track }) => track.role === 'speech' && !track.muted);
  const [was, is] = [
    spreadLu(speech.map(({ line }) => line?.before.lufs ?? null)),
    spreadLu(speech.map(({ line }) => line?.after.lufs ?? null)),
  ];
  const own = tracks.find(({ track }) => track.id === active.id)?.line?.after.lufs ?? null;
  return (
    <main className="flex min-h-0 grow">
      <div className="flex min-w-0 grow flex-col overflow-y-auto px-5 pt-3 pb-2">
        <div className="flex items-baseline gap-3">
          <h1 className="m-0 shrink-0 text-[17px]">Levels of speech</h1>
          <span className="truncate text-[12px] text-soft">
            dot: as recorded · teal: in the mix · width: range · ochre: where it is to stand
          </span>
          {hasBed && (
            <button
              type="button"
              aria-pressed={withoutBed}
              title="For the ear alone; a render has all that is not muted"
              className={`press ml-auto shrink-0 px-1.5! py-0! text-[12px] ${withoutBed ? 'border-focus! text-focus!' : ''}`}
              onClick={bed}
            >
              {withoutBed ? 'without the bed' : 'bed off'} <span className="key">B</span>
            </button>
          )}
          {is !== null && (
            <span className={`${hasBed ? '' : 'ml-auto'} shrink-0 text-[13px]`} data-spread>
              spread {was !== null && <>{formatNumber(was, 1)} → </>}
              <b className="text-result">{formatNumber(is, 1)} LU</b>
            </span>
          )}
        </div>
        {trouble && <Notice tone="trouble">{trouble}</Notice>}
        <div className="shrink-0">
          <LevelsTable
            tracks={tracks}
            talk={talk}
            chosen={chosen}
            onChoose={choose}
            target={target}
            underLu={underLu}
            ceilingDbtp={ceilingDbtp}
          />
        </div>
        <MatchBar
          lines={wanted}
          chosen={chosen.size}
          waiting={tracks.filter(({ line, stale }) => line === null || stale).length}
          targetLufs={target?.lufs ?? -16}
          ceilingDbtp={ceilingDbtp}
          underLu={underLu}
          onUnder={setUnderLu}
          reference={own === null ? null : { name: active.name, lufs: own }}
        >
          <DcOut document={document} lines={wanted} />
        </MatchBar>
        <BleedLine />
        {hasBed &&
          document.tracks
            .filter(({ role, muted }) => role === 'bed' && !muted)
            .map((bed) => (
              <div key={bed.id}>
                <BedLine bed={bed} wishLu={underLu} />
                <BedLength bed={bed} />
              </div>
            ))}
        <OverTimeOrTone document={document} chosen={chosen} />
      </div>
      <ChainColumn of="whole" />
    </main>
  );
}
