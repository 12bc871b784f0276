import { clipAt, type Clip } from '@euphonos/engine';
import { changed } from '../../../store/listening-slice.js';
import { activeTrack } from '../../../store/session-slice.js';
import { store, useAppDispatch } from '../../../store/store.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';

/** The clips of the track that are chosen: one that is worked on, and others with it. */
export function useChosenClips() {
  const { player } = useWorkbench();
  const dispatch = useAppDispatch();
  const clips = (): readonly Clip[] => activeTrack(store.getState().session)!.clips;
  const first = (): string | null => store.getState().listening.chosenClip;

  /** All that are chosen, in the order of time. */
  const allChosen = (): Clip[] => {
    const { chosenClip, alsoChosen } = store.getState().listening;
    return clips().filter(({ id }) => id === chosenClip || alsoChosen.includes(id));
  };
  /** The one that is worked on. */
  const chosen = (): Clip | null => clips().find(({ id }) => id === first()) ?? null;

  /** These, and the one that is worked on stays it, if it is among them. */
  const choose = (ids: readonly string[]): void => {
    const kept = first();
    const main = kept !== null && ids.includes(kept) ? kept : (ids[0] ?? null);
    dispatch(changed({ chosenClip: main, alsoChosen: ids.filter((id) => id !== main) }));
  };
  /** One with those that are chosen; one of them is let go. */
  const chooseAlso = (id: string): void => {
    const ids = allChosen().map((clip) => clip.id);
    choose(ids.includes(id) ? ids.filter((other) => other !== id) : [...ids, id]);
  };
  /** All from the one that is worked on to another. */
  const chooseTo = (id: string): void => {
    const ids = clips().map((clip) => clip.id);
    const [from, to] = [Math.max(0, ids.indexOf(first() ?? '')), ids.indexOf(id)];
    choose(ids.slice(Math.min(from, to), Math.max(from, to) + 1));
  };
  const chooseAll = (): void => choose(clips().map(({ id }) => id));
  /** One more: that before the first or behind the last that is chosen, or, without one, that at the playhead. */
  const extend = (by: 1 | -1): void => {
    const all = allChosen();
    const edge = by > 0 ? all[all.length - 1] : all[0];
    const next = edge ? clips()[clips().indexOf(edge) + by] : clipAt(clips(), player.frame);
    if (next) choose([...all.map(({ id }) => id), next.id]);
  };
  return { allChosen, chosen, chooseAlso, chooseTo, chooseAll, extend };
}
