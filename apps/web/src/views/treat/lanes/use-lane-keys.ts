import { useHotkeys } from 'react-hotkeys-hook';
import { useRef } from 'react';
import { useKeys } from '../../../shell/use-keys.js';
import { changed } from '../../../store/listening-slice.js';
import { activeTrack } from '../../../store/session-slice.js';
import { store, useAppDispatch } from '../../../store/store.js';
import type { useLanes } from './use-lanes.js';

/** Held down for longer than this, solo lasts as long as the key. */
const HELD_MS = 350;

const NUDGE_SECONDS = 0.001;

/** From lane to lane, solo (held: for as long), mute, all together, a clip to the lane above or below. */
export function useLaneKeys({ step, solo, mute, moveClip, nudge }: ReturnType<typeof useLanes>): void {
  const dispatch = useAppDispatch();
  // By when keys went down and up, not by when a busy page came to hear of it: else a tap there is taken for a key that is held.
  const pressed = useRef<{ readonly atMs: number; readonly trackId: string } | null>(null);
  useKeys('up', () => step(-1), { preventDefault: true });
  useKeys('down', () => step(1), { preventDefault: true });
  useKeys('shift_up', () => moveClip(-1), { preventDefault: true });
  useKeys('shift_down', () => moveClip(1), { preventDefault: true });
  useKeys('mod_left', () => nudge(-1, NUDGE_SECONDS), { preventDefault: true });
  useKeys('mod_right', () => nudge(1, NUDGE_SECONDS), { preventDefault: true });
  useKeys('mod_shift_left', () => nudge(-1, 0), { preventDefault: true });
  useKeys('mod_shift_right', () => nudge(1, 0), { preventDefault: true });
  useKeys('i', mute);
  useKeys('y', () => dispatch(changed({ together: !store.getState().listening.together })));
  useKeys('u', ({ repeat, timeStamp }) => {
    const track = activeTrack(store.getState().session);
    if (repeat || !track || pressed.current) return;
    pressed.current = { atMs: timeStamp, trackId: track.id };
    solo(track.id);
  });
  useHotkeys(
    'u',
    ({ timeStamp }) => {
      const { current } = pressed;
      pressed.current = null;
      if (current && timeStamp - current.atMs > HELD_MS) solo(current.trackId);
    },
    { keyup: true, keydown: false, useKey: true },
  );
}
