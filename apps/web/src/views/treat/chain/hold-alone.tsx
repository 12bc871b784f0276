import type { TreatmentSettings } from '@euphonos/dsp';
import { useEffect, useRef } from 'react';
import { changed } from '../../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';

/** While held, what lies below the cutoff is heard alone: move the cutoff until there is no voice in it. */
export function HoldAlone({ settings }: { readonly settings: TreatmentSettings }) {
  const dispatch = useAppDispatch();
  const held = useApp(({ listening }) => listening.aside?.treatmentId === settings.id);
  const hold = (on: boolean): void => {
    dispatch(changed({ aside: on ? { treatmentId: settings.id! } : null }));
  };
  const letGo = useRef<() => void>(() => undefined);
  letGo.current = () => {
    if (held) hold(false);
  };
  // Held down when the card is folded, it must not go on.
  useEffect(() => () => letGo.current(), []);
  return (
    <div className="mb-1 pl-[104px]">
      <button
        type="button"
        disabled={settings.bypassed}
        aria-pressed={held}
        className={`press py-0! text-[12px] ${held ? 'border-removed! bg-removed! text-sheet!' : ''}`}
        title="Hold it down (or Enter) and listen: no voice should be in what is cut"
        onPointerDown={(event) => (event.currentTarget.setPointerCapture(event.pointerId), hold(true))}
        onPointerUp={() => hold(false)}
        onPointerCancel={() => hold(false)}
        onKeyDown={(event) => event.key === 'Enter' && !event.repeat && (event.preventDefault(), hold(true))}
        onKeyUp={(event) => event.key === 'Enter' && hold(false)}
        onBlur={() => held && hold(false)}
      >
        hold to hear what is cut
      </button>
    </div>
  );
}
