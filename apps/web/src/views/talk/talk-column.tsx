import type { TalkView } from '@euphonos/contracts';
import { useState } from 'react';
import { toast } from 'sonner';
import { acceptSession, changeComment, getTalk, say, takeCommentBack } from '../../api/talk.js';
import { useKeys } from '../../shell/use-keys.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { talkKnown } from '../../store/talk-slice.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { Acceptance } from './acceptance.js';
import { useGoToComment } from './comment-lane.js';
import { CommentItem } from './comment-item.js';
import { SayForm } from './say-form.js';

/** What was said of the session, in the order of its time, and what one says oneself. */
export function TalkColumn({ stale }: { readonly stale: boolean }) {
  const { id, revision } = useApp(({ session }) => session!);
  const { talk, chosen } = useApp((state) => state.talk);
  const { sampleRateHz } = useWorkbench();
  const [settled, setSettled] = useState(false);
  const dispatch = useAppDispatch();
  const goTo = useGoToComment();
  const comments = talk?.comments ?? [];
  const shown = comments.filter(({ resolved }) => settled || !resolved);
  const settledCount = comments.length - comments.filter(({ resolved }) => !resolved).length;

  const act = async (work: Promise<TalkView | void>): Promise<void> => {
    try {
      dispatch(talkKnown((await work) ?? (await getTalk(id))));
    } catch (error) {
      toast.error((error as Error).message);
      throw error;
    }
  };
  const quietly = (work: Promise<TalkView | void>): void => void act(work).catch(() => undefined);
  const step = (by: 1 | -1): void => {
    const timed = shown.filter(({ startFrame }) => startFrame !== null);
    const at = timed.findIndex((comment) => comment.id === chosen);
    const next = timed[at < 0 ? (by > 0 ? 0 : timed.length - 1) : at + by];
    if (next) goTo(next);
  };
  useKeys('7', () => step(-1));
  useKeys('9', () => step(1));
  return (
    <aside aria-label="Talk" className="flex w-[396px] shrink-0 flex-col border-l border-line">
      <Acceptance
        acceptances={talk?.acceptances ?? []}
        revision={revision}
        disabled={stale}
        onAccept={(accepted, note) => act(acceptSession(id, { revision, accepted, note })).catch(() => undefined)}
      />
      <div className="flex items-baseline gap-3 px-4 pt-3 pb-1">
        <h2 className="m-0 grow text-[16px]">
          {shown.length === 0 ? 'Nothing is open' : shown.length === 1 ? '1 comment' : `${shown.length} comments`}
        </h2>
        {settledCount > 0 && (
          <button type="button" className="text-[12px] text-soft hover:text-ink" onClick={() => setSettled(!settled)}>
            {settled ? 'hide what is settled' : `${settledCount} settled`}
          </button>
        )}
        {shown.length > 1 && (
          <span className="text-[12px] text-soft">
            <span className="key">7</span> <span className="key">9</span>
          </span>
        )}
      </div>
      <ul aria-label="Comments" className="m-0 min-h-0 grow list-none overflow-y-auto p-0">
        {shown.map((comment) => (
          <CommentItem
            key={comment.id}
            comment={comment}
            chosen={comment.id === chosen}
            sampleRateHz={sampleRateHz}
            revision={revision}
            onGoTo={() => goTo(comment)}
            onAnswer={(text) => act(say(id, { text, answers: comment.id })).catch(() => undefined)}
            onChange={(commentId, change) => quietly(changeComment(commentId, change))}
            onTakeBack={(commentId) => quietly(takeCommentBack(commentId))}
          />
        ))}
        {comments.length === 0 && (
          <li className="px-4 text-[13px] text-soft">
            Select a stretch on the strips and say what you hear there, or write while it plays: it is said of the moment at which you
            began.
          </li>
        )}
      </ul>
      <SayForm onSay={(body) => act(say(id, body))} />
    </aside>
  );
}
