import type { Spoken } from '@euphonos/dsp';
import type { SessionDocument } from '@euphonos/engine';
import { useEffect, useState } from 'react';
import { useWorkbench } from '../../workbench/workbench-context.js';

/** Listened to this long after the last change: last of all that is measured here. */
const SETTLE_MS = 900;

/** Where somebody speaks on each track of speech, and how loud, by the track's id; nothing while it is not known. */
export function useTalk(document: SessionDocument): ReadonlyMap<string, readonly Spoken[]> {
  const { mixing } = useWorkbench();
  const [found, setFound] = useState<ReadonlyMap<string, readonly Spoken[]>>(new Map());
  const { tracks } = document;
  useEffect(() => {
    let wanted = true;
    const timer = setTimeout(() => {
      const speech = tracks.filter(({ role, muted }) => role === 'speech' && !muted);
      if (speech.length === 0) return setFound(new Map());
      mixing.talk(document, speech).then(
        (talk) => wanted && setFound(new Map(speech.map(({ id }, i) => [id, talk[i]!]))),
        // What cannot be measured is told with the tracks.
        () => undefined,
      );
    }, SETTLE_MS);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only tracks are listened to
  }, [mixing, tracks]);
  return found;
}
