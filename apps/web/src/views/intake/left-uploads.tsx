import { formatBytes } from '@euphonos/engine';
import { formatDistanceToNow } from 'date-fns';
import { useEffect, useState } from 'react';
import { forgetUpload, leftUploads, type LeftUpload } from '../../api/resumable.js';
import { Notice } from '../../components/notice.js';

interface Props {
  /** Looks once more when this is another: what is being sent at this moment is not left. */
  readonly changes: number;
  readonly onChoose: () => void;
}

/** Files that were on their way when this page was closed: chosen again, they go on from where they were. */
export function LeftUploads({ changes, onChoose }: Props) {
  const [left, setLeft] = useState<readonly LeftUpload[]>([]);
  useEffect(() => void leftUploads().then(setLeft, () => undefined), [changes]);
  if (left.length === 0) return null;
  return (
    <div className="mb-4 flex flex-col gap-2">
      {left.map((one) => (
        <Notice
          key={one.key}
          tone="word"
          action={
            <span className="flex shrink-0 gap-2">
              <button type="button" className="press" onClick={onChoose}>
                Choose it again
              </button>
              <button
                type="button"
                className="press"
                onClick={() => void forgetUpload(one).then(() => setLeft((known) => known.filter(({ key }) => key !== one.key)))}
              >
                Forget it
              </button>
            </span>
          }
        >
          <b>{one.name}</b> ({formatBytes(one.sizeBytes)}) was on its way {formatDistanceToNow(one.since)} ago when this page was closed.
          Chosen again, it goes on from where it was.
        </Notice>
      ))}
    </div>
  );
}
