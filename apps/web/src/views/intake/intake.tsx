import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import { Notice } from '../../components/notice.js';
import { useApp } from '../../store/store.js';
import { isEngineer } from '../../store/who-slice.js';
import { useKeys } from '../../shell/use-keys.js';
import { BringIn } from './bring-in.js';
import { ChosenBar } from './chosen-bar.js';
import { Heard } from './heard.js';
import { ProductionsDialog } from './productions-dialog.js';
import { RoomNotice } from './room-notice.js';
import { SessionFilters } from './session-filters.js';
import { SessionLine } from './session-line.js';
import { useProductions } from './use-productions.js';
import { useSessionList, type Asked } from './use-session-list.js';

const ROW_PX = 66;
const EVERYTHING: Asked = {};

/** The list of sessions, and the way in for recordings. Only what is seen of it is drawn and fetched. */
export function Intake() {
  const [asked, setAsked] = useState<Asked>(EVERYTHING);
  const { total, row, look, reload, trouble } = useSessionList(asked);
  const { productions, reload: reloadProductions } = useProductions();
  const [editing, setEditing] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const lastChosen = useRef<number | null>(null);
  const scroll = useRef<HTMLElement>(null);
  const list = useRef<HTMLUListElement>(null);
  const [scrollMargin, setScrollMargin] = useState(0);
  useLayoutEffect(() => {
    const now =
      list.current && scroll.current
        ? list.current.getBoundingClientRect().top - scroll.current.getBoundingClientRect().top + scroll.current.scrollTop
        : 0;
    if (Math.abs(now - scrollMargin) > 1) setScrollMargin(now);
    // What stands above the list may have changed.
  }, [scrollMargin, total, trouble, chosen.size]);
  const virtual = useVirtualizer({
    count: total ?? 0,
    getScrollElement: () => scroll.current,
    estimateSize: () => ROW_PX,
    overscan: 6,
    scrollMargin,
  });
  const items = virtual.getVirtualItems();
  const [first, last] = [items[0]?.index ?? 0, items[items.length - 1]?.index ?? 0];
  useEffect(() => look(first, last), [look, first, last]);
  useKeys('escape', () => setChosen(new Set()));
  const change = (next: Asked): void => {
    setAsked(next);
    setChosen(new Set());
    scroll.current?.scrollTo({ top: 0 });
  };
  const refresh = (): void => {
    reload();
    reloadProductions();
  };
  const done = (): void => {
    setChosen(new Set());
    refresh();
  };
  const choose = (index: number, on: boolean, upTo: boolean): void => {
    const from = upTo && lastChosen.current !== null ? lastChosen.current : index;
    const ids = Array.from({ length: Math.abs(index - from) + 1 }, (_, i) => row(Math.min(index, from) + i)?.id).filter(
      (id) => id !== undefined,
    );
    setChosen((before) => {
      const next = new Set(before);
      for (const id of ids)
        if (on) next.add(id);
        else next.delete(id);
      return next;
    });
    lastChosen.current = index;
  };
  const filtered = asked.search || asked.production || asked.left || (asked.shelf ?? 'work') !== 'work';
  const engineer = useApp(({ who }) => isEngineer(who));
  const Frame = engineer ? BringIn : Heard;
  return (
    <Frame onArrival={refresh} scroll={scroll}>
      {trouble && (
        <Notice
          tone="trouble"
          action={
            <button type="button" className="press" onClick={refresh}>
              Try again
            </button>
          }
        >
          {trouble}
        </Notice>
      )}
      {engineer && <RoomNotice again={total} />}
      <SessionFilters asked={asked} onChange={change} productions={productions} onProductions={engineer ? () => setEditing(true) : null} />
      {total === 0 && (
        <p className="max-w-[60ch] text-soft">
          {!engineer && !filtered
            ? 'Nothing is shared with you yet. Whoever works on something shares it with you, and it is here.'
            : filtered
              ? asked.shelf === 'deleted'
                ? 'Nothing is deleted. What is deleted can be had back from here for 30 days.'
                : 'Nothing fits. Other words, or another shelf?'
              : 'Nothing here yet. Bring in a recording of speech with noise under it: it is read once, measured, and opens for treatment. A second or two of noise alone, before the first word, is the best start.'}
        </p>
      )}
      {chosen.size > 0 && (
        <div className="sticky top-0 z-10">
          <ChosenBar
            ids={[...chosen]}
            shelf={asked.shelf ?? 'work'}
            productions={productions}
            onDone={done}
            onClear={() => setChosen(new Set())}
          />
        </div>
      )}
      <ul ref={list} className="relative m-0 list-none p-0" style={{ height: virtual.getTotalSize() }} aria-label="Sessions">
        {items.map(({ index, start }) => {
          const session = row(index);
          return (
            <li
              key={session?.id ?? `empty-${index}`}
              aria-setsize={total ?? 0}
              aria-posinset={index + 1}
              className="absolute inset-x-0 top-0"
              style={{ height: ROW_PX, transform: `translateY(${start - scrollMargin}px)` }}
            >
              {session ? (
                <SessionLine
                  session={session}
                  chosen={chosen.has(session.id)}
                  onChoose={(on, upTo) => choose(index, on, upTo)}
                  onChange={refresh}
                />
              ) : (
                <div className="h-full border-t border-line" />
              )}
            </li>
          );
        })}
      </ul>
      {(total ?? 0) > 0 && (
        <p className="m-0 border-t border-line pt-2 text-[12px] text-soft">{total === 1 ? '1 session' : `${total} sessions`}</p>
      )}
      {editing && <ProductionsDialog productions={productions} onChange={refresh} onClose={() => setEditing(false)} />}
    </Frame>
  );
}
