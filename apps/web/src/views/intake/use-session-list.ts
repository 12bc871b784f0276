import type { ListSessions, SessionRow } from '@euphonos/contracts';
import { useCallback, useEffect, useRef, useState } from 'react';
import { onJobEvent } from '../../api/events.js';
import { listSessions } from '../../api/productions.js';

/** Rows are fetched in pages of so many. */
const PAGE_ROWS = 60;
/** What the server reports of its jobs is gathered for so long before the list is read again. */
const GATHER_MS = 250;

export type Asked = Partial<Pick<ListSessions, 'search' | 'production' | 'shelf' | 'left' | 'sort' | 'reverse'>>;

interface Found {
  readonly asked: Asked;
  readonly total: number;
  readonly pages: ReadonlyMap<number, readonly SessionRow[]>;
}

/** The sessions that are asked for, page by page as they are looked at, and kept up to date by what the server reports of its jobs. */
export function useSessionList(asked: Asked) {
  const [found, setFound] = useState<Found | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const wanted = useRef(asked);
  const coming = useRef(new Set<number>());
  const seen = useRef<readonly number[]>([0]);

  const load = useCallback(async (page: number, again = false): Promise<void> => {
    const of = wanted.current;
    if (coming.current.has(page) && !again) return;
    coming.current.add(page);
    try {
      const { rows, total } = await listSessions(of, page * PAGE_ROWS, PAGE_ROWS);
      if (of !== wanted.current) return;
      setFound((before) => ({ asked: of, total, pages: new Map([...(before?.asked === of ? before.pages : []), [page, rows]]) }));
      setTrouble(null);
    } catch (error) {
      if (of === wanted.current) setTrouble((error as Error).message);
    } finally {
      coming.current.delete(page);
    }
  }, []);

  /** What was seen last is read again; pages further away when they are looked at. */
  const reload = useCallback(() => {
    setFound((before) => before && { ...before, pages: new Map([...before.pages].filter(([page]) => seen.current.includes(page))) });
    for (const page of seen.current) void load(page, true);
  }, [load]);

  useEffect(() => {
    wanted.current = asked;
    seen.current = [0];
    coming.current.clear();
    void load(0, true);
  }, [asked, load]);

  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const later = (): void => {
      timer ??= setTimeout(() => {
        timer = undefined;
        reload();
      }, GATHER_MS);
    };
    const stop = onJobEvent(({ subjectId, job }) => {
      if (job.state !== 'running') return later();
      if (job.kind === 'read') setFound((before) => before && withJob(before, subjectId, job));
    }, later);
    return () => {
      clearTimeout(timer);
      stop();
    };
  }, [reload]);

  /** Rows from … to … are looked at: what is missing of them is fetched. */
  const look = useCallback(
    (from: number, to: number) => {
      seen.current = Array.from(
        { length: Math.floor(to / PAGE_ROWS) - Math.floor(from / PAGE_ROWS) + 1 },
        (_, i) => Math.floor(from / PAGE_ROWS) + i,
      );
      for (const page of seen.current) if (!found?.pages.has(page)) void load(page);
    },
    [found, load],
  );
  const row = (index: number): SessionRow | null => found?.pages.get(Math.floor(index / PAGE_ROWS))?.[index % PAGE_ROWS] ?? null;
  return { total: found?.total ?? null, row, look, reload, trouble };
}

function withJob(found: Found, recordingId: string, job: SessionRow['recording']['job']): Found {
  const pages = [...found.pages].map(
    ([page, rows]) =>
      [
        page,
        rows.some(({ recording }) => recording.id === recordingId)
          ? rows.map((one) => (one.recording.id === recordingId ? { ...one, recording: { ...one.recording, job } } : one))
          : rows,
      ] as const,
  );
  return { ...found, pages: new Map(pages) };
}
