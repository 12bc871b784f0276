import type { Spoken } from '@euphonos/dsp';
import type { SessionDocument } from '@euphonos/engine';
import { useSettled } from '../../workbench/use-settled.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

/** Listened to this long after the last change: last of all that is measured here. */
const SETTLE_MS = 900;
type Talk = ReadonlyMap<string, readonly Spoken[]>;
const NOTHING: Talk = new Map();

/** Where somebody speaks on each track of speech, and how loud, by the track's id; nothing while it is not known. */
export function useTalk(document: SessionDocument): Talk {
  const { mixing } = useWorkbench();
  // Only tracks are listened to; what cannot be measured is told with them.
  const talk = useSettled(document.tracks, SETTLE_MS, async (tracks): Promise<Talk> => {
    const speech = tracks.filter(({ role, muted }) => role === 'speech' && !muted);
    if (speech.length === 0) return NOTHING;
    const found = await mixing.talk(document, speech);
    return new Map(speech.map(({ id }, i) => [id, found[i]!]));
  });
  return talk?.found ?? NOTHING;
}
