import type { CommentView } from '@euphonos/contracts';
import { Popover } from 'radix-ui';
import { useMemo } from 'react';
import { changed } from '../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { commentChosen } from '../../store/talk-slice.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { useView } from '../treat/use-view.js';
import { CommentCard } from './comment-card.js';
import { placeComments } from './comment-rows.js';

const ROW_PX = 20;

/** Goes where a comment is: its stretch is selected, the playhead at its beginning. */
export function useGoToComment(): (comment: CommentView) => void {
  const { view, player } = useWorkbench();
  const dispatch = useAppDispatch();
  return (comment) => {
    dispatch(commentChosen(comment.id));
    const { startFrame, endFrame } = comment;
    if (startFrame === null) return;
    dispatch(changed({ selection: endFrame === null ? null : { startFrame, endFrame }, band: null }));
    player.seek(startFrame);
    const px = view.pxAt(startFrame);
    if (px < 0 || px > view.widthPx) view.scroll(px - view.widthPx / 3);
  };
}

interface Props {
  /** At most so many, one over the other. */
  readonly rows: number;
  /** What was said is read in a card, where nothing beside tells it. */
  readonly cards?: boolean;
}

/** Comments that are not settled, on the time of the strips. */
export function CommentLane({ rows, cards = false }: Props) {
  const { view } = useWorkbench();
  const { talk, chosen } = useApp((state) => state.talk);
  const goTo = useGoToComment();
  useView(view);
  const shown = useMemo(() => talk?.comments.filter(({ resolved }) => !resolved) ?? [], [talk]);
  const placed = placeComments(shown, view.pxAt.bind(view), view.widthPx, rows);
  const used = Math.max(0, ...placed.map(({ row }) => row + 1));
  if (shown.every(({ startFrame }) => startFrame === null)) return null;
  return (
    <div
      role="group"
      aria-label="Comments over time"
      className="relative shrink-0 overflow-hidden"
      style={{ height: Math.max(1, used) * ROW_PX }}
    >
      {placed.map(({ comment, leftPx, widthPx, row }) => {
        const button = (
          <button
            key={comment.id}
            type="button"
            title={`${comment.by ?? 'You'}: ${comment.text}`}
            onClick={() => goTo(comment)}
            className={`absolute h-[17px] truncate rounded-sheet border border-focus px-1 text-left text-[11px] leading-[15px] text-focus ${comment.id === chosen ? 'bg-focus/15 font-semibold' : 'bg-sheet hover:bg-focus/10'}`}
            style={{ left: leftPx, width: widthPx, top: row * ROW_PX }}
          >
            {comment.text}
          </button>
        );
        return cards ? (
          <Popover.Root key={comment.id}>
            <Popover.Trigger asChild>{button}</Popover.Trigger>
            <CommentCard comment={comment} />
          </Popover.Root>
        ) : (
          button
        );
      })}
    </div>
  );
}
