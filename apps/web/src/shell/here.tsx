import { useEffect } from 'react';
import { useMatch } from 'react-router';
import { sayHere } from '../api/talk.js';
import { useApp, useAppDispatch } from '../store/store.js';
import { hereKnown } from '../store/who-slice.js';
import { windowId } from './window-id.js';

const AGAIN_MS = 10_000;
const MOST_SHOWN = 4;

/** Says that this window is there, and keeps who else is. */
function usePresence(sessionId: string | undefined): void {
  const shared = useApp(({ who }) => who.who?.shared === true && who.who.person !== null && !who.ended);
  const dispatch = useAppDispatch();
  useEffect(() => {
    if (!shared) return;
    const body = { windowId: windowId(), ...(sessionId ? { sessionId } : {}) };
    let left = false;
    const beat = (): void =>
      void sayHere(body).then(
        (here) => !left && dispatch(hereKnown(here)),
        () => undefined,
      );
    beat();
    const timer = setInterval(beat, AGAIN_MS);
    const leave = (): void => void sayHere({ ...body, leaving: true }).catch(() => undefined);
    addEventListener('pagehide', leave);
    return () => {
      left = true;
      clearInterval(timer);
      removeEventListener('pagehide', leave);
    };
  }, [shared, sessionId, dispatch]);
}

/** Who else is here: in a session those who have it open, elsewhere everybody. */
export function Here() {
  const sessionId = useMatch('/sessions/:id/*')?.params.id;
  usePresence(sessionId);
  const { here, who } = useApp((state) => state.who);
  const others = here.filter(({ personId, sessionId: at }) => personId !== who?.person?.id && (!sessionId || at === sessionId));
  const people = [...new Map(others.map((one) => [one.personId, one])).values()];
  if (people.length === 0) return null;
  const where = ({ name, sessionName, holds }: (typeof people)[number]): string =>
    sessionId
      ? `${name} ${holds ? 'works on this session' : 'listens to this session'}`
      : `${name}${sessionName ? ` · ${sessionName}` : ''}`;
  return (
    <ul aria-label="Others who are here" className="m-0 flex list-none gap-1 p-0">
      {people.slice(0, MOST_SHOWN).map((one) => (
        <li
          key={one.personId}
          title={where(one)}
          className={`grid size-[24px] place-items-center rounded-full border text-[11px] font-semibold ${one.holds ? 'border-result text-result' : 'border-line text-soft'}`}
        >
          <span aria-label={where(one)}>{initials(one.name)}</span>
        </li>
      ))}
      {people.length > MOST_SHOWN && <li className="text-[12px] leading-[24px] text-soft">+{people.length - MOST_SHOWN}</li>}
    </ul>
  );
}

const initials = (name: string): string =>
  name
    .split(/\s+/)
    .map((word) => [...word][0] ?? '')
    .slice(0, 2)
    .join('')
    .toUpperCase();
