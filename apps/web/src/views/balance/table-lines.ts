import type { BalanceLine, Track } from '@euphonos/engine';
import type { BalanceTrack } from './use-balance.js';

/** A line of the table with what it is compared by. */
export interface TableLine {
  readonly id: string;
  readonly line: BalanceLine | null;
  readonly startFrame: number;
  /** Loudness of the speech alone, as it is in the mix; null where nobody talks, or it is not known. */
  readonly talkLufs: number | null;
  /** How far it is from its band, LU; 0 within; null where there is no band. */
  readonly offLu: number | null;
  /** How much louder it is than what sounds before it: a track than the track, a clip than the clip of its kind. */
  readonly besideLu: number | null;
}

export type Column = 'before' | 'after' | 'off' | 'beside' | 'talk' | 'range' | 'dBTP' | 'floor';

/** What a column is sorted by; null sorts last. */
export const columnValue = ({ line, talkLufs, offLu, besideLu }: TableLine, column: Column): number | null => {
  switch (column) {
    case 'before':
      return line?.before.lufs ?? null;
    case 'after':
      return line?.after.lufs ?? null;
    case 'off':
      return offLu;
    case 'beside':
      return besideLu;
    case 'talk':
      return talkLufs;
    case 'range':
      return line?.after.rangeLu ?? null;
    case 'dBTP':
      return line?.after.truePeakDbtp ?? null;
    case 'floor':
      return line?.after.floorDbfs ?? null;
  }
};

export interface Sorting {
  readonly column: Column;
  readonly way: 'down' | 'up';
}

/** In the order of a column; what has no value comes last, what is alike stays as it was. */
export function sorted<Line extends TableLine>(lines: readonly Line[], sorting: Sorting | null): readonly Line[] {
  if (!sorting) return lines;
  const sign = sorting.way === 'down' ? -1 : 1;
  return [...lines].sort((a, b) => {
    const [x, y] = [columnValue(a, sorting.column), columnValue(b, sorting.column)];
    return x === null || y === null ? Number(x === null) - Number(y === null) : sign * (x - y);
  });
}

/** A column once more: down, up, as it was. */
export const nextSorting = (before: Sorting | null, column: Column): Sorting | null =>
  before?.column !== column ? { column, way: 'down' } : before.way === 'down' ? { column, way: 'up' } : null;

const distance = (lufs: number, [low, high]: readonly [number, number]): number =>
  lufs < low ? lufs - low : lufs > high ? lufs - high : 0;

interface About {
  readonly bandOf: (track: Track) => readonly [number, number] | null;
  /** Loudness of the talk on a track between two frames. */
  readonly talkOf: (track: Track, startFrame: number, endFrame: number) => number | null;
}
/** A track's line, and those of its clips. */
export interface TrackLines {
  readonly of: BalanceTrack;
  readonly line: TableLine;
  readonly clips: readonly TableLine[];
}

/** All lines of the table, in the session's order. */
export function tableLines(tracks: readonly BalanceTrack[], { bandOf, talkOf }: About): TrackLines[] {
  const made = tracks.map((of) => {
    const { track, line, clips } = of;
    const about = (one: BalanceLine | null, id: string, startFrame: number, endFrame: number) => {
      const band = bandOf(track);
      const lufs = one?.after.lufs ?? null;
      const offLu = band && lufs !== null ? distance(lufs, band) : null;
      return { id, line: one, startFrame, talkLufs: talkOf(track, startFrame, endFrame), offLu, besideLu: null };
    };
    const all = track.clips;
    return {
      of,
      line: about(line, `${track.id}/`, all[0]!.startFrame, Infinity),
      clips: clips.map((one) => {
        const { startFrame, source } = all.find(({ id }) => id === one.clipId)!;
        return about(one, `${track.id}/${one.clipId}`, startFrame, startFrame + source.endFrame - source.startFrame);
      }),
    };
  });
  // Who follows whom: people among people, and every bed among beds.
  const besides = (role: Track['role'], of: (lines: TrackLines) => readonly TableLine[]): ReadonlyMap<string, number> => {
    const lines = made.filter(({ of: { track } }) => track.role === role && !track.muted).flatMap(of);
    const inTime = lines.filter(({ line }) => line?.after.lufs != null).sort((a, b) => a.startFrame - b.startFrame);
    return new Map(inTime.slice(1).map(({ id, line }, i) => [id, line!.after.lufs! - inTime[i]!.line!.after.lufs!]));
  };
  const known = new Map(
    (['speech', 'bed'] as const).flatMap((role) => [
      ...besides(role, ({ line }) => [line]),
      // A track that is one clip takes its place among the clips.
      ...[...besides(role, ({ line, clips }) => (clips.length > 0 ? clips : [line]))].filter(([id]) => !id.endsWith('/')),
    ]),
  );
  const beside = (line: TableLine): TableLine => ({ ...line, besideLu: known.get(line.id) ?? null });
  return made.map(({ of, line, clips }) => ({ of, line: beside(line), clips: clips.map(beside) }));
}
