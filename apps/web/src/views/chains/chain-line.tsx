import { treatmentOf } from '@euphonos/dsp';
import type { ChainFile } from '@euphonos/engine';
import { Download, RefreshCw, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import { setMinus } from '../../components/figures.js';
import { NameField } from '../../components/name-field.js';

interface Props {
  readonly file: ChainFile;
  readonly compared: boolean;
  readonly onTake: () => void;
  readonly onCompare: () => void;
  /** What only a kept one can have done to it. */
  readonly kept?: {
    readonly id: string;
    readonly onRename: (name: string) => void;
    readonly forNew: boolean;
    readonly onForNew: () => void;
    readonly onReplace: () => void;
    readonly onRemove: () => void;
  };
  readonly children?: ReactNode;
}

/** A chain with a name: what it is for, what it is made of, and what can be done with it. */
export function ChainLine({ file, compared, onTake, onCompare, kept, children }: Props) {
  const { name, note, treatments } = file;
  const made = treatments.map((settings) => `${treatmentOf(settings.kind).title} ${treatmentOf(settings.kind).summary(settings as never)}`);
  return (
    <li className="border-t border-faint py-1.5" data-chain-line={name}>
      <div className="flex items-center gap-2">
        {kept ? <NameField name={name} onRename={kept.onRename} /> : <b className="min-w-0 grow truncate px-1 font-semibold">{name}</b>}
        <button type="button" className="press px-2! py-0!" onClick={onTake}>
          Take
        </button>
        <button
          type="button"
          aria-pressed={compared}
          className={`press px-2! py-0! ${compared ? 'border-focus! text-focus!' : ''}`}
          title="In what it differs from the chain at work"
          onClick={onCompare}
        >
          Compare
        </button>
        {kept && (
          <>
            <button
              type="button"
              aria-label={`Put the present chain in the place of ${name}`}
              title="Keep the present chain under this name"
              className="text-soft hover:text-ink"
              onClick={kept.onReplace}
            >
              <RefreshCw size={14} />
            </button>
            <a
              href={`/api/chains/${kept.id}/file`}
              download
              aria-label={`Download ${name}`}
              title="As a JSON file"
              className="text-soft hover:text-ink"
            >
              <Download size={14} />
            </a>
            <button type="button" aria-label={`Delete ${name}`} className="text-soft hover:text-removed" onClick={kept.onRemove}>
              <Trash2 size={14} />
            </button>
          </>
        )}
      </div>
      <p className="m-0 px-1 text-[12px] text-soft">
        {note && <span className="text-ink">{note} </span>}
        {setMinus(made.join(' · '))}
      </p>
      {kept && (
        <label className="flex items-center gap-1 px-1 text-[12px] text-soft">
          <input type="checkbox" className="accent-(--ink)" checked={kept.forNew} onChange={kept.onForNew} /> for every recording that comes
          in
        </label>
      )}
      {children}
    </li>
  );
}
