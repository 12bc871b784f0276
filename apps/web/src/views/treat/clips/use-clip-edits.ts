import { nearestZeroCrossing } from '@euphonos/dsp';
import {
  alignCuts,
  clipAt,
  clipEnd,
  copySpan,
  EngineError,
  lineDb,
  missingBefore,
  offsetOf,
  spanFrames,
  type Clip,
  type ClipsEdit,
  type Span,
  type Track,
} from '@euphonos/engine';
import { useRef } from 'react';
import { toast } from 'sonner';
import { changed } from '../../../store/listening-slice.js';
import { activeTrack, edited } from '../../../store/session-slice.js';
import { store, useAppDispatch } from '../../../store/store.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import { useChosenClips } from './use-chosen-clips.js';
import { useRoomTone } from './use-room-tone.js';

/** How far an edge goes to a change of sign: less than anybody hears as a shift. */
const ZERO_REACH_SECONDS = 0.003;
const NUDGE_SECONDS = 0.01;
/** A point of a gain line this near to the playhead is the one that is meant. */
const POINT_SECONDS = 0.03;
/** Presses that follow each other so soon move one point. */
const SAME_POINT_MS = 900;

type WithoutTrack<E> = E extends ClipsEdit ? Omit<E, 'trackId'> : never;

/** What can be done to clips, at the selection, the clip that is worked on, or the playhead. */
export function useClipEdits() {
  const workbench = useWorkbench();
  const { player, view, sampleRateHz } = workbench;
  const dispatch = useAppDispatch();
  const roomTone = useRoomTone();
  const state = () => store.getState().listening;
  const track = (): Track => activeTrack(store.getState().session)!;
  const { allChosen, chosen } = useChosenClips();
  /** Does it, or says why it cannot be done. */
  const edit = (plain: WithoutTrack<ClipsEdit>): boolean => {
    try {
      dispatch(edited({ ...plain, trackId: track().id } as ClipsEdit));
      return true;
    } catch (error) {
      if (!(error instanceof EngineError)) throw error;
      toast.error(error.message, { id: 'clips' });
      return false;
    }
  };

  /** Frames at the nearest changes of sign, where snapping is on. */
  const snapped = async (frames: readonly number[]): Promise<number[]> => {
    if (!state().snapping) return [...frames];
    const reach = Math.round(ZERO_REACH_SECONDS * sampleRateHz);
    return Promise.all(
      frames.map(async (frame) => {
        const start = Math.max(0, Math.round(frame) - reach - 1);
        const sound = await player.read(start, Math.round(frame) + reach + 1).catch(() => []);
        return sound.length === 0 ? Math.round(frame) : start + nearestZeroCrossing(sound, Math.round(frame) - start, reach);
      }),
    );
  };

  /** The selection, or else the clips that are chosen; none, and it is said so, without either. */
  const targets = async (): Promise<Span[]> => {
    const { selection } = state();
    if (selection) {
      const [startFrame, endFrame] = await snapped([selection.startFrame, selection.endFrame]);
      return [{ startFrame: startFrame!, endFrame: endFrame! }];
    }
    const spans = allChosen().map((clip) => ({ startFrame: clip.startFrame, endFrame: clipEnd(clip) }));
    if (spans.length > 0) return spans;
    toast('Drag over a stretch first, or choose a clip in the line above the strips.', { id: 'clips' });
    return [];
  };
  /** Cuts that close up go to where the sound goes on best, so that a hum keeps its phase. */
  const aligned = (spans: readonly Span[]): Promise<Span[]> =>
    state().snapping
      ? alignCuts(spans, (from, to) => player.read(from, to), sampleRateHz, workbench.lengthFrames).catch(() => [...spans])
      : Promise.resolve([...spans]);
  const done = (): void => void dispatch(changed({ selection: null, band: null, candidate: null }));

  const split = async (): Promise<void> => {
    const { selection } = state();
    const frames = await snapped(selection ? [selection.startFrame, selection.endFrame] : [player.frame]);
    if (edit({ type: 'split-clips', frames })) dispatch(changed({ chosenClip: clipAt(track().clips, frames[0]!)?.id ?? null }));
  };
  const cut = async (close: boolean): Promise<void> => {
    const wanted = await targets();
    const spans = close && wanted.length > 0 ? await aligned(wanted) : wanted;
    const [span] = spans;
    if (!span || !edit({ type: 'cut-spans', spans, close })) return;
    done();
    if (!player.playing) player.seek(span.startFrame);
    dispatch(changed({ chosenClip: clipAt(track().clips, close ? span.startFrame : span.endFrame)?.id ?? null }));
  };
  const silence = async (): Promise<void> => {
    const spans = await targets();
    if (spans.length > 0 && edit({ type: 'fill-spans', spans: spans.map((span) => ({ ...span, sound: { kind: 'silence' } })) })) done();
  };
  const tone = async (): Promise<void> => {
    const spans = await targets();
    const made = spans.length > 0 ? await roomTone.tone() : null;
    if (!made) return;
    const filled = spans.map((span) => ({ ...span, sound: { kind: 'room-tone' as const, gainDb: made.gainDb(span) } }));
    if (edit({ type: 'fill-spans', roomTone: made.passage, spans: filled })) done();
  };
  const level = async (byDb: number): Promise<void> => {
    const spans = await targets();
    if (spans.length > 0) edit({ type: 'level-spans', spans, byDb });
  };

  /** The clip at whose beginning something can be given back: the one that is worked on, or the next from the playhead. */
  const giveBack = (): void => {
    const { clips } = track();
    const can = (clip: Clip): boolean => clip.sound.kind !== 'recording' || missingBefore(track(), clips.indexOf(clip)) !== null;
    const { frame } = player;
    const near = (clip: Clip): number => Math.min(Math.abs(clip.startFrame - frame), Math.abs(clipEnd(clip) - frame));
    const wanted = chosen();
    const clip = wanted && can(wanted) ? wanted : clips.filter(can).sort((a, b) => near(a) - near(b))[0];
    const last = clips[clips.length - 1]!;
    if (clip) edit({ type: 'give-back', clipId: clip.id, side: 'before' });
    else edit({ type: 'give-back', clipId: last.id, side: 'after' });
  };

  /** At once, so that what is pressed next finds it. */
  const copy = (): boolean => {
    const clip = chosen();
    const span = state().selection ?? (clip && { startFrame: clip.startFrame, endFrame: clipEnd(clip) });
    if (!span) {
      toast('Drag over a stretch first, or choose a clip in the line above the strips.', { id: 'clips' });
      return false;
    }
    dispatch(changed({ copied: copySpan(track(), span) }));
    toast(`${(spanFrames(span) / sampleRateHz).toFixed(2)} s copied; Ctrl V puts it in at the playhead.`, { id: 'clips' });
    return true;
  };
  const cutOut = async (): Promise<void> => {
    if (copy()) await cut(true);
  };
  const paste = async (): Promise<void> => {
    const { copied } = state();
    if (!copied) return void toast('Nothing was copied yet.', { id: 'clips' });
    const [atFrame] = await snapped([player.frame]);
    if (edit({ type: 'paste-clips', copied, atFrame: atFrame! }))
      dispatch(changed({ selection: { startFrame: atFrame!, endFrame: atFrame! + copied.frames } }));
  };

  /** To the next edge of a clip, or the one before, from the playhead. */
  const step = (by: 1 | -1): void => {
    const { clips } = track();
    const { frame } = player;
    const next =
      by > 0 ? clips.find(({ startFrame }) => startFrame > frame + 1) : clips.findLast(({ startFrame }) => startFrame < frame - 1);
    if (!next) return;
    dispatch(changed({ chosenClip: next.id }));
    player.seek(next.startFrame);
    if (next.startFrame < view.startFrame || next.startFrame > view.endFrame)
      view.scroll((next.startFrame - view.startFrame) / view.framesPerPx - view.widthPx / 2);
  };
  /** The beginning of the clip that is worked on, a little earlier or later. */
  const nudge = (by: 1 | -1, finer: boolean): void => {
    const clip = chosen();
    if (!clip) return void toast('Choose a clip first: [ and ] go from edge to edge.', { id: 'clips' });
    const frames = Math.round(NUDGE_SECONDS * sampleRateHz * (finer ? 0.1 : 1)) * by;
    edit({ type: 'move-joint', clipId: clip.id, toFrame: clip.startFrame + frames });
  };
  /** The clips that are chosen go into free room, a little earlier or later. */
  const shift = (by: 1 | -1): void => {
    const clipIds = allChosen().map(({ id }) => id);
    if (clipIds.length > 0) edit({ type: 'move-clips', clipIds, byFrames: Math.round(NUDGE_SECONDS * sampleRateHz) * by });
  };
  const lifted = useRef({ clipId: '', frame: 0, untilMs: 0 });
  /** The gain line at the playhead goes up or down: the point there, or a new one; while it plays on, the one that was begun with. */
  const lift = (byDb: number): void => {
    const { frame } = player;
    const now = performance.now();
    const begun = now < lifted.current.untilMs ? track().clips.find(({ id }) => id === lifted.current.clipId) : undefined;
    const clip = begun ?? clipAt(track().clips, frame);
    if (!clip) return void toast('Put the playhead into a clip first; its gain line gets a point there.', { id: 'clips' });
    const at = begun ? lifted.current.frame : Math.round(frame) + offsetOf(clip);
    lifted.current = { clipId: clip.id, frame: at, untilMs: now + SAME_POINT_MS };
    const near = clip.line.find((point) => Math.abs(point.frame - at) <= POINT_SECONDS * sampleRateHz);
    const point = { frame: near?.frame ?? at, gainDb: (near?.gainDb ?? lineDb(clip.line, at)) + byDb };
    dispatch(changed({ chosenClip: clip.id }));
    edit({ type: 'shape-clip', clipId: clip.id, shape: { line: [...clip.line.filter((other) => other !== near), point] } });
  };
  return {
    ...{ edit, snapped, aligned, split, cut, silence, tone, level, giveBack, copy, cutOut, paste },
    ...{ step, nudge, shift, lift },
  };
}
