import type { RenderView } from '@euphonos/contracts';
import { Download } from 'lucide-react';
import { Notice } from '../../components/notice.js';

interface Props {
  readonly stems: readonly RenderView[];
  readonly onCancel: (id: string) => void;
}

/** What several files of one revision are. */
const KINDS = {
  stem: {
    one: 'stem',
    more: 'stems',
    sentence:
      'Each track as it is in the mix, before the chain on the whole: all of one length, 32-bit float, so that nothing clips. Their sum is the mix.',
  },
  clip: {
    one: 'clip',
    more: 'clips',
    sentence:
      'Each clip by itself with what lies around it, treated, without level and fades: these stay in the other program. 32-bit float.',
  },
  original: {
    one: 'recording',
    more: 'recordings',
    sentence:
      'Each as a whole in the place of the file that it came as: its name, format, length and what it says of itself; of a filmed one the sound, as a WAV. The file that was brought in stays as it is.',
  },
} as const;

/** The files of one revision that are made for others: a stem for each track, a clip, a recording each. */
export function Stems({ stems, onCancel }: Props) {
  const { one, more, sentence } = KINDS[stems[0]?.piece?.of ?? 'stem'];
  return (
    <section aria-label="Stems" data-stems={stems.every(({ job }) => job.state === 'done') ? 'done' : 'under way'}>
      <h1 className="m-0 text-[18px]">
        {stems.length} {stems.length === 1 ? one : more}
      </h1>
      <p className="mt-0 mb-2 text-[12px] text-soft">
        Revision {stems[0]?.revision}. {sentence}
      </p>
      <ul className="m-0 list-none border-b border-line p-0">
        {[...stems]
          .sort((a, b) => a.fileName.localeCompare(b.fileName))
          .map(({ id, fileName, job }) => (
            <li key={id} className="border-t border-line py-1.5">
              <div className="flex items-center gap-3">
                <span className="min-w-0 grow truncate" title={fileName}>
                  {fileName}
                </span>
                {job.state === 'done' && (
                  <a href={`/api/renders/${id}/file`} download={fileName} className="press flex items-center gap-1.5 no-underline">
                    <Download size={13} /> {fileName.split('.').pop()!.toUpperCase()}
                  </a>
                )}
                {(job.state === 'queued' || job.state === 'running') && (
                  <>
                    <span className="text-[12px] text-soft">
                      {job.state === 'queued' ? 'waiting' : `${Math.round(job.progress * 100)} %`}
                    </span>
                    <button type="button" className="press" onClick={() => onCancel(id)}>
                      Cancel
                    </button>
                  </>
                )}
                {job.state === 'cancelled' && <span className="text-soft">cancelled</span>}
              </div>
              {job.state === 'failed' && <Notice tone="trouble">{job.problem?.message ?? 'The render broke off.'}</Notice>}
            </li>
          ))}
      </ul>
    </section>
  );
}
