import type { Listen, ListenState } from '@euphonos/dsp';
import { Check } from 'lucide-react';
import { useDesk, useDeskState } from './use-desk.js';

const STEPS: readonly { readonly listen: Listen; readonly title: string; readonly say: string; readonly key: string }[] = [
  { listen: 'silence', title: 'Be silent', say: 'Sit as you will sit, and say nothing: the room, its hum, its hiss.', key: '1' },
  { listen: 'usual', title: 'Make your usual noise', say: 'Type, turn a page, move the chair, as it will happen.', key: '2' },
  { listen: 'speech', title: 'Speak as you will', say: 'As loud as later, some p and b and s among it.', key: '3' },
];

const HINTS: Readonly<Record<NonNullable<ListenState['hint']>, string>> = {
  sounds: 'Something was heard: it begins anew.',
  'too-loud': 'Clipped: lower the gain, then begin again.',
  'nothing-heard': 'Nothing stands out of the silence yet.',
  'more-talk': 'Hardly a word yet: speak on.',
};

/** Three short listens, each told when it is enough. */
export function ListensPanel() {
  const desk = useDesk();
  const open = useDeskState((state) => state.status === 'open' && state.recording === null);
  const listening = useDeskState((state) => state.listening);
  const heard = useDeskState((state) => state.heard);
  const checking = useDeskState((state) => state.checking);
  const next = STEPS.find(({ listen }) => !heard.has(listen))?.listen;
  return (
    <section aria-label="Listens" className="min-w-0 grow px-5 py-3.5">
      <div className="flex items-baseline justify-between">
        <h2 className="m-0 text-[17px]">Three short listens</h2>
        {checking && (
          <span role="status" className="text-[13px] text-soft">
            is measured …
          </span>
        )}
      </div>
      <ol className="m-0 mt-1.5 list-none p-0">
        {STEPS.map(({ listen, title, say, key }) => {
          const now = listening?.listen === listen ? listening.state : null;
          const done = heard.has(listen);
          return (
            <li key={listen} className="grid grid-cols-[1fr_auto] items-center gap-x-3 border-t border-line py-1" data-listen={listen}>
              <div className="min-w-0">
                <b className="font-semibold">{title}</b>
                {done && !now && (
                  <span className="ml-2 text-[12.5px] text-result">
                    <Check size={13} className="inline" /> enough
                  </span>
                )}
                <div className="truncate text-[12.5px] text-soft">
                  {now?.hint ? <span className="text-removed">{HINTS[now.hint]}</span> : say}
                </div>
                <div
                  role="progressbar"
                  aria-label={title}
                  aria-valuenow={Math.round(100 * (now?.share ?? (done ? 1 : 0)))}
                  className="mt-0.5 h-[3px] bg-faint"
                >
                  <i className="block h-full bg-result" style={{ width: `${100 * (now?.share ?? (done ? 1 : 0))}%` }} />
                </div>
              </div>
              <button
                type="button"
                disabled={!open}
                className={next === listen && !now ? 'press-strong py-1!' : 'press'}
                onClick={() => desk.listens.listen(now ? null : listen)}
              >
                {now ? 'Stop' : done ? 'Again' : 'Listen'} <span className="key">{key}</span>
              </button>
            </li>
          );
        })}
      </ol>
    </section>
  );
}
