import type { RenderView } from '@euphonos/contracts';
import { fileWords, PLAIN_FILE } from '@euphonos/engine';
import { format } from 'date-fns';
import { Download } from 'lucide-react';
import { useState } from 'react';
import { Notice } from '../../components/notice.js';
import { Stems } from './stems.js';
import { CheckSheet } from './check-sheet.js';

interface Props {
  readonly renders: readonly RenderView[];
  readonly onCancel: (id: string) => void;
}

/** The deliveries made so far: the latest open, the others a line each. */
export function Deliveries({ renders, onCancel }: Props) {
  const [chosen, setChosen] = useState<string | null>(null);
  const shown = renders.find(({ id }) => id === chosen) ?? renders[0];
  if (!shown)
    return (
      <p className="max-w-[60ch] text-soft">
        Nothing has been handed over yet. Choose what the delivery must meet, then render: the whole recording runs through the chain on the
        server, is brought to the target, measured again and checked line by line.
      </p>
    );
  return (
    <>
      {shown.stem ? (
        <Stems
          stems={renders.filter(({ stem, revision, piece }) => stem && revision === shown.revision && piece?.of === shown.piece?.of)}
          onCancel={onCancel}
        />
      ) : (
        <Delivery key={shown.id} render={shown} onCancel={onCancel} />
      )}
      {renders.length > 1 && (
        <section aria-label="Earlier deliveries" className="mt-4">
          <h2 className="m-0 mb-1 text-[16px]">All deliveries</h2>
          <ul className="m-0 list-none p-0">
            {renders.map((render) => (
              <li key={render.id}>
                <button
                  type="button"
                  onClick={() => setChosen(render.id)}
                  className={`flex w-full gap-4 border-t border-line py-1 text-left hover:bg-faint ${render === shown ? 'font-semibold' : ''}`}
                >
                  <span className="w-[110px] shrink-0">{format(render.createdAt, 'd MMM HH:mm')}</span>
                  <span className="grow truncate">
                    {render.stem ? `${render.piece?.of ?? 'stem'} · ${render.fileName}` : render.target.name}
                  </span>
                  <span className="text-soft">revision {render.revision}</span>
                  <span className="w-[90px] shrink-0 text-right">{verdict(render)}</span>
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

/** Of a file with a picture, its container; undefined of sound alone. */
const pictureWords = (fileName: string): string | undefined => /\.(mp4|mov|mkv|webm)$/i.exec(fileName)?.[1]?.toUpperCase();

function verdict({ job, report, stem, piece }: RenderView): string {
  if (stem && job.state === 'done') return piece?.of ?? 'stem';
  if (!report) return { queued: 'waiting', running: 'running', done: 'done', failed: 'broke off', cancelled: 'cancelled' }[job.state];
  return report.lines.some(({ passed }) => passed === false) ? 'failed' : 'passed';
}

function Delivery({ render, onCancel }: { readonly render: RenderView; readonly onCancel: (id: string) => void }) {
  const { job, report, target, fileName, id } = render;
  const busy = job.state === 'queued' || job.state === 'running';
  return (
    <section aria-label="Delivery" data-job={job.state}>
      <div className="mb-2 flex items-center gap-4">
        <div className="min-w-0 grow">
          <h1 className="m-0 truncate text-[18px]" title={fileName}>
            {fileName}
          </h1>
          <p className="m-0 text-[12px] text-soft">
            {target.name} · revision {render.revision} · {format(render.createdAt, 'd MMMM, HH:mm')}
          </p>
        </div>
        {report && (
          <a href={`/api/renders/${id}/file`} download={fileName} className="press-strong flex shrink-0 items-center gap-2 no-underline">
            <Download size={15} /> Download,{' '}
            {pictureWords(fileName) ?? fileWords(target.file ?? PLAIN_FILE, report.after.sampleRateHz, report.after.channels)}
          </a>
        )}
        {busy && (
          <button type="button" className="press shrink-0" onClick={() => onCancel(id)}>
            Cancel
          </button>
        )}
      </div>
      {busy && (
        <div role="progressbar" aria-label="Rendering" aria-valuenow={Math.round(job.progress * 100)} className="mb-3">
          <span className="text-soft">
            {job.state === 'queued' ? 'Waiting for its turn …' : `Rendering … ${Math.round(job.progress * 100)} %`}
          </span>
          <i className="mt-1 block h-[3px] bg-result" style={{ width: `${job.progress * 100}%` }} />
        </div>
      )}
      {job.state === 'failed' && <Notice tone="trouble">{job.problem?.message ?? 'The render broke off.'}</Notice>}
      {job.state === 'cancelled' && <p className="text-soft">Cancelled; nothing was written.</p>}
      {report && <CheckSheet report={report} target={target} />}
      {report && (
        <p className="mt-2 mb-0 flex items-baseline gap-2 text-[12px] text-soft" data-report>
          Report of what was received, found, done and measured, for whoever was not there:
          {(['pdf', 'html', 'json'] as const).map((ending) => (
            <a key={ending} className="text-ink" href={`/api/renders/${id}/report.${ending}`} download={`${fileName}, report.${ending}`}>
              {ending.toUpperCase()}
            </a>
          ))}
        </p>
      )}
    </section>
  );
}
