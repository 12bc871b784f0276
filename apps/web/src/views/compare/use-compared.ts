import type { Span } from '@euphonos/engine';
import { useEffect, useMemo, useRef, useState } from 'react';
import { ComparePlayer } from '../../audio/compare-player.js';
import type { SpanSound } from '../../passage/span-render.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { equalGainsDb } from './equal-gains.js';
import type { Side } from './sides.js';

export interface Compared {
  /** null until both are rendered. */
  readonly player: ComparePlayer | null;
  /** What each is, LUFS, and what it is raised by. */
  readonly levels: readonly { readonly lufs: number | null; readonly gainDb: number }[];
  readonly trouble: string | null;
}

/** Renders two sides of a span, each once, and makes a player of them in which both are equally loud. */
export function useCompared(a: Side, b: Side, span: Span): Compared {
  const { mixing, sampleRateHz } = useWorkbench();
  const rendered = useRef(new Map<string, Promise<SpanSound>>());
  const [found, setFound] = useState<{ readonly of: string; readonly sounds: readonly SpanSound[] } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const of = `${a.id} ${b.id}`;
  useEffect(() => {
    let wanted = true;
    const sound = ({ id, document, which }: Side): Promise<SpanSound> => {
      const known = rendered.current.get(id);
      if (known) return known;
      const made = mixing.rendered(document, span, which);
      rendered.current.set(id, made);
      made.catch(() => rendered.current.delete(id));
      return made;
    };
    setTrouble(null);
    Promise.all([sound(a), sound(b)]).then(
      (sounds) => wanted && setFound({ of, sounds }),
      (error: unknown) => wanted && setTrouble(error instanceof Error ? error.message : String(error)),
    );
    return () => void (wanted = false);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- sides are what they were when the dialog was opened
  }, [mixing, of]);
  const made = useMemo(() => {
    if (found?.of !== of) return null;
    const gains = equalGainsDb(found.sounds);
    const sounds = found.sounds.map(({ channels }, i) => ({ channels, gainDb: gains[i]! }));
    return {
      player: new ComparePlayer(sounds, sampleRateHz),
      levels: found.sounds.map(({ lufs }, i) => ({ lufs, gainDb: gains[i]! })),
    };
  }, [found, of, sampleRateHz]);
  useEffect(() => () => made?.player.close(), [made]);
  return { player: made?.player ?? null, levels: made?.levels ?? [], trouble };
}
