import { endOf } from '@euphonos/engine';
import { useEffect, useRef, useState, useSyncExternalStore } from 'react';
import { Choice } from '../../../components/choice.js';
import { useKeys } from '../../../shell/use-keys.js';
import { changed } from '../../../store/listening-slice.js';
import { activeTrack } from '../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';
import { isHeard } from '../../../workbench/mixing.js';
import { useFrameLoop } from '../../../workbench/use-frame-loop.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import { useView } from '../use-view.js';
import { LaneHead } from './lane-head.js';
import { LanePicture } from './lane-picture.js';
import { useLaneKeys } from './use-lane-keys.js';
import { useLanes } from './use-lanes.js';

const LANE_PX = 27;
/** So many are seen without scrolling; all of them when asked, as far as the page holds them. */
const SEEN = 5;
const SEEN_AT_MOST = 12;
const HEAD_PX = 312;

/** The tracks of a session one below the other, over its whole length; the one that is worked on is in the strips below. */
export function Lanes() {
  const session = useApp((state) => state.session)!;
  const { tracks, sampleRateHz } = session.history!.present;
  const active = activeTrack(session)!;
  const together = useApp(({ listening }) => listening.together);
  const solo = useApp(({ listening }) => listening.solo);
  const chosenClip = useApp(({ listening }) => listening.chosenClip);
  const dispatch = useAppDispatch();
  const { view, player } = useWorkbench();
  const lanes = useLanes();
  const [tall, setTall] = useState(false);
  const [named, setNamed] = useState<string | null>(null);
  useKeys('f2', () => setNamed(active.id), { preventDefault: true });
  const [carriedTo, setCarriedTo] = useState<string | null>(null);
  const list = useRef<HTMLUListElement>(null);
  useLaneKeys(lanes);
  const lengthFrames = Math.max(...tracks.map(({ clips }) => endOf(clips)));
  const laneAt = (clientY: number): string | null => {
    const lines = [...(list.current?.children ?? [])] as HTMLElement[];
    return lines.find((line) => within(line, clientY))?.dataset['track'] ?? null;
  };
  useEffect(() => {
    list.current?.querySelector('[data-chosen=true]')?.scrollIntoView({ block: 'nearest' });
  }, [active.id]);
  const rows = Math.min(tracks.length, tall ? SEEN_AT_MOST : SEEN);
  return (
    <section aria-label="Tracks" className="shrink-0 text-[12px]">
      <div className="flex items-baseline gap-3 pb-1">
        <Choice
          label="Heard"
          value={together ? 'all' : 'one'}
          onChange={(heard) => dispatch(changed({ together: heard === 'all' }))}
          choices={[
            { value: 'one', title: 'this track' },
            { value: 'all', title: 'all together', hint: 'All that are not muted, through the chain on the whole (Y)' },
          ]}
        />
        <span className="text-soft">
          <span className="key">↑</span> <span className="key">↓</span> from lane to lane
        </span>
        <Awaited />
        {solo.length > 0 && (
          <button type="button" className="text-removed" onClick={() => dispatch(changed({ solo: [] }))}>
            {solo.length === 1 ? 'one track' : `${solo.length} tracks`} solo, hear all again
          </button>
        )}
        {tracks.length > SEEN && (
          <button type="button" className="ml-auto text-soft hover:text-ink" aria-expanded={tall} onClick={() => setTall(!tall)}>
            {tall ? 'fewer lanes' : `${tracks.length} lanes, show more`}
          </button>
        )}
      </div>
      <div className="relative">
        <ul
          ref={list}
          className="m-0 list-none overflow-x-hidden overflow-y-auto border border-line p-0"
          style={{ height: rows * LANE_PX + 2 }}
        >
          {tracks.map((track) => {
            const heard = together || solo.length > 0 ? isHeard(track, solo) : track === active;
            return (
              <li
                key={track.id}
                data-track={track.id}
                data-chosen={track === active}
                className={`flex border-b border-faint last:border-b-0 ${carriedTo === track.id ? 'bg-focus/15' : track === active ? 'bg-sheet' : ''}`}
                style={{ height: LANE_PX }}
              >
                <LaneHead
                  track={track}
                  chosen={track === active}
                  solo={solo.includes(track.id)}
                  heard={!track.muted && (solo.length === 0 || solo.includes(track.id))}
                  naming={named === track.id}
                  onNaming={(naming) => setNamed(naming ? track.id : null)}
                  onChoose={() => lanes.choose(track.id)}
                  onSolo={() => lanes.solo(track.id)}
                />
                <LanePicture
                  track={track}
                  sampleRateHz={sampleRateHz}
                  lengthFrames={lengthFrames}
                  heard={heard}
                  chosenClip={track === active ? chosenClip : null}
                  onClick={(frame, clipId) => {
                    lanes.choose(track.id, track.clips.length > 1 ? clipId : null);
                    player.seek(frame);
                  }}
                  onScroll={(byFrames) => view.scroll(byFrames / view.framesPerPx)}
                  onCarry={(clientY) => setCarriedTo(clientY === null ? null : laneAt(clientY))}
                  onDrop={(clipId, clientY) => {
                    const to = laneAt(clientY);
                    if (to) lanes.move(track.id, clipId, to);
                  }}
                />
              </li>
            );
          })}
        </ul>
        <Shown lengthFrames={lengthFrames} />
      </div>
    </section>
  );
}

const within = (line: HTMLElement, y: number): boolean => {
  const { top, bottom } = line.getBoundingClientRect();
  return y >= top && y < bottom;
};

/** What the strips show of the session, and the playhead, over all lanes. */
function Shown({ lengthFrames }: { readonly lengthFrames: number }) {
  const { view, player } = useWorkbench();
  const playhead = useRef<HTMLElement>(null);
  const marks = useApp(({ session }) => session!.history!.present.marks);
  useView(view);
  useFrameLoop(() => {
    // Moved, not laid out anew: thirty lanes lie below it.
    const line = playhead.current;
    if (line) line.style.transform = `translateX(${((player.frame / lengthFrames) * (line.parentElement?.clientWidth ?? 0)).toFixed(1)}px)`;
  });
  const share = (frames: number): string => `${(frames / lengthFrames) * 100}%`;
  return (
    <div aria-hidden className="pointer-events-none absolute inset-y-0 right-px overflow-hidden" style={{ left: HEAD_PX + 1 }}>
      <i
        className="absolute inset-y-0 min-w-[2px] border-x border-ink bg-ink/5"
        style={{ left: share(view.startFrame), width: share(Math.min(view.spanFrames, lengthFrames - view.startFrame)) }}
      />
      {marks.map(({ id, startFrame }) => (
        <i key={id} className="absolute inset-y-0 w-px bg-practice" style={{ left: share(startFrame) }} />
      ))}
      <i ref={playhead} className="absolute inset-y-0 left-0 -ml-px w-[2px] bg-focus" />
    </div>
  );
}

/** How many of the other tracks are still rendered for the ear. */
function Awaited() {
  const { player } = useWorkbench();
  const awaited = useSyncExternalStore(
    (call) => player.subscribe(call),
    () => player.awaited,
  );
  const together = useApp(({ listening }) => listening.together || listening.solo.length > 0);
  if (!together) return null;
  return (
    <span role="status" className={awaited > 0 ? 'text-removed' : 'text-soft'}>
      {awaited > 0
        ? `${awaited === 1 ? 'one more is' : `${awaited} more are`} being prepared`
        : 'the one at work live, the others prepared ahead'}
    </span>
  );
}
