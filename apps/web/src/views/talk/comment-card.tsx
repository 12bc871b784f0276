import type { CommentView } from '@euphonos/contracts';
import { formatDistanceToNow } from 'date-fns';
import { Popover } from 'radix-ui';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { changeComment } from '../../api/talk.js';
import { useApp } from '../../store/store.js';

/** A comment as it is read over the strips, while somebody does something about it. */
export function CommentCard({ comment: { id, by, at, text, answers, maySettle } }: { readonly comment: CommentView }) {
  const sessionId = useApp(({ session }) => session?.id);
  return (
    <Popover.Portal>
      <Popover.Content
        align="start"
        sideOffset={3}
        aria-label="Comment"
        className="z-20 w-[340px] rounded-sheet border border-ink bg-sheet p-3 text-[13px]"
      >
        {[{ id, by, at, text }, ...answers].map((said) => (
          <div key={said.id} className="mt-1.5 first:mt-0">
            <p className="m-0 text-[12px] text-soft">
              <span className="font-semibold text-ink">{said.by ?? 'You'}</span> {formatDistanceToNow(said.at)} ago
            </p>
            <p className="m-0 break-words whitespace-pre-wrap">{said.text}</p>
          </div>
        ))}
        <div className="mt-3 flex gap-2">
          {maySettle && (
            <button
              type="button"
              className="press"
              onClick={() => void changeComment(id, { resolved: true }).catch((error: Error) => toast.error(error.message))}
            >
              Settled
            </button>
          )}
          <Link to={`/sessions/${sessionId}/talk`} className="press text-ink no-underline">
            Answer in Talk
          </Link>
        </div>
      </Popover.Content>
    </Popover.Portal>
  );
}
