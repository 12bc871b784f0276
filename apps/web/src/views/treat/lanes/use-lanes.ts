import { clipAt, type Track } from '@euphonos/engine';
import { toast } from 'sonner';
import { changed } from '../../../store/listening-slice.js';
import { activeTrack, edited, trackChosen } from '../../../store/session-slice.js';
import { store, useAppDispatch } from '../../../store/store.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';

/** What can be done with lanes: choose one, solo, mute, take a clip to another. */
export function useLanes() {
  const dispatch = useAppDispatch();
  const { player, sampleRateHz } = useWorkbench();
  const tracks = (): readonly Track[] => store.getState().session?.history?.present.tracks ?? [];
  const active = (): Track | null => activeTrack(store.getState().session);

  const choose = (trackId: string, chosenClip: string | null = null): void => {
    if (active()?.id !== trackId) {
      dispatch(trackChosen(trackId));
      dispatch(changed({ selection: null, aside: null, candidate: null, chosenClip }));
    } else dispatch(changed({ chosenClip }));
  };
  const step = (by: 1 | -1): void => {
    const all = tracks();
    const at = all.findIndex(({ id }) => id === active()?.id);
    const next = all[at + by];
    if (next) choose(next.id);
  };
  const solo = (trackId: string, on?: boolean): void => {
    const { solo: now } = store.getState().listening;
    const is = now.includes(trackId);
    if (is === on) return;
    dispatch(changed({ solo: is ? now.filter((id) => id !== trackId) : [...now, trackId] }));
  };
  const mute = (): void => {
    const track = active();
    if (track) dispatch(edited({ type: 'set-track', trackId: track.id, muted: !track.muted }));
  };
  /** A clip of the track at work, or of another one, goes to a lane. */
  const move = (fromId: string, clipId: string, toTrackId: string): void => {
    if (fromId === toTrackId) return;
    try {
      dispatch(edited({ type: 'move-to-track', trackId: fromId, clipIds: [clipId], toTrackId }));
      choose(toTrackId);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  /** The chosen clip, or the one at the playhead, to the lane above or below. */
  const moveClip = (by: 1 | -1): void => {
    const track = active();
    const all = tracks();
    const to = track && all[all.indexOf(track) + by];
    const { chosenClip } = store.getState().listening;
    const clip = track?.clips.find(({ id }) => id === chosenClip) ?? (track ? clipAt(track.clips, player.frame) : null);
    if (track && to && clip) move(track.id, clip.id, to.id);
  };
  /** All of the track a little earlier or later, by seconds or by single frames. */
  const nudge = (by: 1 | -1, seconds: number): void => {
    const track = active();
    const byFrames = by * Math.max(1, Math.round(seconds * sampleRateHz));
    if (track && track.clips[0]!.startFrame + byFrames >= 0) dispatch(edited({ type: 'shift-track', trackId: track.id, byFrames }));
  };
  return { choose, step, solo, mute, move, moveClip, nudge };
}
