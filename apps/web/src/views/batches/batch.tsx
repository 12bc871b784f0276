import { useRef, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import { bringIn } from '../../api/client.js';
import { Choice } from '../../components/choice.js';
import { Notice } from '../../components/notice.js';
import { useKeys } from '../../shell/use-keys.js';
import { BatchTable } from './batch-table.js';
import { nextUnheard, sorted, type Column } from './sort-items.js';
import { useBatch } from './use-batch.js';
import { useEar } from './use-ear.js';

const SIDES = [
  { value: 'source', title: 'as it came' },
  { value: 'result', title: 'handed over' },
] as const;

/** Many recordings, each cleaned by itself: how far they are, which of them somebody should hear, and hearing them. */
export function Batch() {
  const id = useParams()['id']!;
  const navigate = useNavigate();
  const { batch, trouble, load, change } = useBatch(id);
  const [[by, descending], setSort] = useState<readonly [Column, boolean]>(['as it came', false]);
  const [picked, setPicked] = useState<string | null>(null);
  const [sending, setSending] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const items = sorted(batch?.items ?? [], by, descending);
  const at = items.findIndex(({ sessionId }) => sessionId === picked);
  const current = items[at] ?? null;
  const ear = useEar(current);
  const step = (by: 1 | -1): void => setPicked(items[Math.max(0, Math.min(items.length - 1, at + by))]?.sessionId ?? null);
  useKeys('down', () => step(1), { preventDefault: true });
  useKeys('up', () => step(-1), { preventDefault: true });
  useKeys('space', ear.toggle, { byCode: true, preventDefault: true });
  useKeys('1', () => ear.setSide('source'));
  useKeys('3', () => ear.setSide('result'));
  useKeys('t', () => current && void navigate(`/sessions/${current.sessionId}/treat`));
  useKeys('enter', () => {
    if (current?.step !== 'done') return;
    change({ sessionIds: [current.sessionId], accepted: !current.accepted });
    if (!current.accepted)
      setPicked(
        nextUnheard(
          items.map((one) => (one === current ? { ...one, accepted: true } : one)),
          current.sessionId,
        ) ?? current.sessionId,
      );
  });
  const send = async (files: readonly File[]): Promise<void> => {
    for (const [i, file] of files.entries()) {
      setSending(`${i + 1} of ${files.length}: ${file.name}`);
      await bringIn(file, () => undefined, { batch: id }).catch((error: Error) => toast.error(`${file.name}: ${error.message}`));
      load();
    }
    setSending(null);
  };
  if (!batch) return <main className="p-6">{trouble ? <Notice tone="trouble">{trouble}</Notice> : null}</main>;
  const count = (wanted: (item: (typeof items)[number]) => boolean): number => batch.items.filter(wanted).length;
  const failed = batch.items.filter(({ step: now }) => now === 'failed');
  return (
    <main
      className="flex min-h-0 grow flex-col"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        void send([...event.dataTransfer.files]);
      }}
    >
      <div className="min-h-0 grow overflow-y-auto px-6 py-4">
        <div className="mb-3 flex items-end gap-4">
          <div className="min-w-0 grow">
            <h1 className="m-0 truncate text-[20px]">{batch.name}</h1>
            <p className="m-0 text-[13px] text-soft" data-summary>
              {batch.items.length} recordings · {count(({ step: now }) => now === 'done')} done, {failed.length} failed ·{' '}
              {count(({ needsEar, step: now, accepted }) => now === 'done' && needsEar.length > 0 && !accepted)} need an ear ·{' '}
              {count(({ accepted }) => accepted)} accepted · {batch.chainName ?? 'each its own chain'} · {batch.target.name}
              {batch.folder && <> · watches {batch.folder}</>}
            </p>
          </div>
          {failed.length > 0 && (
            <button
              type="button"
              className="press"
              onClick={() => change({ sessionIds: failed.map(({ sessionId }) => sessionId), again: true })}
            >
              Try what failed again
            </button>
          )}
          <button type="button" className="press-strong" onClick={() => input.current?.click()}>
            Add recordings
          </button>
          <input
            ref={input}
            type="file"
            multiple
            hidden
            aria-label="Recordings for the batch"
            onChange={({ target }) => {
              const files = [...(target.files ?? [])];
              target.value = '';
              void send(files);
            }}
          />
        </div>
        {trouble && <Notice tone="trouble">{trouble}</Notice>}
        {sending && <Notice tone="word">Sending {sending}</Notice>}
        {items.length === 0 && !sending && <p className="text-soft">Nothing in it yet. Add recordings, or drop them here.</p>}
        {items.length > 0 && (
          <BatchTable
            items={items}
            current={picked}
            by={by}
            descending={descending}
            onPick={setPicked}
            onSort={(column) => setSort(by === column ? [column, !descending] : [column, false])}
          />
        )}
      </div>
      <footer className="flex shrink-0 items-center gap-4 border-t border-line bg-sheet px-6 py-2.5 text-[13px]" aria-label="Hear it">
        <button type="button" className="press" disabled={!current?.renderId} onClick={ear.toggle}>
          {ear.playing ? 'Stop' : 'Hear it'} <span className="key">Space</span>
        </button>
        <Choice label="Heard" value={ear.side} onChange={ear.setSide} choices={SIDES} />
        <span className="min-w-0 grow truncate text-soft" data-heard={ear.playing ? ear.side : 'nothing'}>
          {ear.trouble ?? current?.fileName ?? 'Choose a recording with ↑ ↓'}
        </span>
        <span className="text-[12px] text-soft">
          <span className="key">1</span> <span className="key">3</span> before, after · <span className="key">Enter</span> good ·{' '}
          <span className="key">T</span> open in Treat
        </span>
        {current?.renderId && (
          <a className="press no-underline" href={`/api/renders/${current.renderId}/file`} download={current.resultName ?? true}>
            Download
          </a>
        )}
      </footer>
    </main>
  );
}
