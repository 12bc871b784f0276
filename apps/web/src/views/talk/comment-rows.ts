import type { CommentView } from '@euphonos/contracts';

export interface PlacedComment {
  readonly comment: CommentView;
  readonly leftPx: number;
  readonly widthPx: number;
  readonly row: number;
}

/** A moment is as wide as what can be pressed, and a stretch never narrower. */
const LEAST_PX = 22;
const GAP_PX = 3;

/**
 * Where comments lie on a strip, in rows so that none hides another; those of all of the session lie nowhere.
 * @param rows at most so many: what finds no room lies in the last.
 */
export function placeComments(
  comments: readonly CommentView[],
  pxAt: (frame: number) => number,
  widthPx: number,
  rows: number,
): readonly PlacedComment[] {
  const free = Array.from({ length: rows }, () => -Infinity);
  const placed: PlacedComment[] = [];
  const timed = comments.filter((comment) => comment.startFrame !== null).sort((a, b) => a.startFrame! - b.startFrame!);
  for (const comment of timed) {
    const left = pxAt(comment.startFrame!);
    const right = Math.max(left + LEAST_PX, pxAt(comment.endFrame ?? comment.startFrame!));
    if (right < 0 || left > widthPx) continue;
    const found = free.findIndex((end) => left >= end + GAP_PX);
    const row = found < 0 ? rows - 1 : found;
    free[row] = Math.max(free[row]!, right);
    // Held near the view: browsers lose precision at widths of millions of pixels.
    const [from, to] = [Math.max(-50, left), Math.min(widthPx + 50, right)];
    placed.push({ comment, leftPx: from, widthPx: to - from, row });
  }
  return placed;
}
