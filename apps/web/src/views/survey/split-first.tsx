import type { Finding } from '@euphonos/dsp';
import { Dialog } from '../../components/dialog.js';
import { activeTrack, edited } from '../../store/session-slice.js';
import { store, useAppDispatch } from '../../store/store.js';
import { useTake } from './use-take.js';

interface Props {
  /** What was to be taken. */
  readonly taken: readonly Finding[];
  /** What the survey found on each channel. */
  readonly people: readonly (readonly Finding[])[];
  readonly onTogether: () => void;
  readonly onDone: (count: number) => void;
  readonly onClose: () => void;
}

/** Before something is taken for people who have a channel each: a track for each of them, with what each of them needs? */
export function SplitFirst({ taken, people, onTogether, onDone, onClose }: Props) {
  const dispatch = useAppDispatch();
  const take = useTake();
  const split = (): void => {
    const track = activeTrack(store.getState().session)!;
    const { channels } = track.reel[0]!;
    const before = store.getState().session!.history!.present.tracks.map(({ id }) => id);
    dispatch(edited({ type: 'split-tracks', trackId: track.id, channels: channels.length }));
    const made = store.getState().session!.history!.present.tracks.filter(({ id }) => id === track.id || !before.includes(id));
    const kinds = new Set(taken.map(({ kind }) => kind));
    let count = 0;
    made.forEach(({ id }, i) => {
      const own = people[i] ?? [];
      const wanted = own.filter(({ kind, suggestion }) => suggestion !== null && kinds.has(kind));
      count += take(wanted, own, id);
    });
    onDone(count);
  };
  return (
    <Dialog open title="Each channel has a voice of its own" onClose={onClose}>
      <p className="mt-0">
        {people.length} people talk here, each on a channel. On a track of their own each gets what their own channel needs, and a noise
        profile of their own room; on one track both get the same.
      </p>
      <div className="flex justify-end gap-2">
        <button type="button" className="press" onClick={onTogether}>
          Take it for both together
        </button>
        <button type="button" className="press-strong" onClick={split}>
          Split, and take it for each
        </button>
      </div>
    </Dialog>
  );
}
