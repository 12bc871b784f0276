import type { BatchItemView } from '@euphonos/contracts';
import { Check } from 'lucide-react';
import { formatNumber, formatTime, setMinus } from '../../components/figures.js';
import type { Column } from './sort-items.js';

const COLUMNS: readonly { readonly column: Column; readonly title: string; readonly className?: string }[] = [
  { column: 'name', title: 'Recording' },
  { column: 'length', title: 'Length', className: 'text-right' },
  { column: 'state', title: 'State' },
  { column: 'loudness', title: 'LUFS', className: 'text-right' },
  { column: 'floor', title: 'Floor', className: 'text-right' },
  { column: 'ear', title: 'Needs an ear' },
];
const WORDS = { reading: 'reading', treating: 'treating', rendering: 'rendering', done: 'done', failed: 'failed' } as const;

interface Props {
  readonly items: readonly BatchItemView[];
  readonly current: string | null;
  readonly by: Column;
  readonly descending: boolean;
  readonly onSort: (column: Column) => void;
  readonly onPick: (sessionId: string) => void;
}

/** Every recording with how far it is, its verdict, and why somebody should hear it. */
export function BatchTable({ items, current, by, descending, onSort, onPick }: Props) {
  return (
    <table
      className="w-full border-collapse text-left text-[13px] [&_td]:border-t [&_td]:border-line [&_td]:py-1.5 [&_td]:pr-4 [&_th]:pb-1 [&_th]:pr-4 [&_th]:font-normal"
      aria-label="Recordings of the batch"
    >
      <thead>
        <tr>
          {COLUMNS.map(({ column, title, className }) => (
            <th key={column} className={className} aria-sort={by === column ? (descending ? 'descending' : 'ascending') : 'none'}>
              <button
                type="button"
                className={`text-[12px] ${by === column ? 'font-semibold text-ink' : 'text-soft'} hover:text-ink`}
                onClick={() => onSort(column)}
              >
                {title}
                {by === column && (descending ? ' ↓' : ' ↑')}
              </button>
            </th>
          ))}
          <th />
        </tr>
      </thead>
      <tbody>
        {items.map((item) => (
          <tr
            key={item.sessionId}
            data-item={item.step}
            aria-current={item.sessionId === current}
            className={`cursor-default ${item.sessionId === current ? 'bg-faint' : 'hover:bg-faint'}`}
            onClick={() => onPick(item.sessionId)}
          >
            <td className="max-w-[300px] truncate font-semibold" title={item.fileName}>
              {item.fileName}
            </td>
            <td className="text-right whitespace-nowrap">{item.seconds === null ? '–' : formatTime(item.seconds, 0)}</td>
            <td className="whitespace-nowrap">
              <State item={item} />
            </td>
            <td className="text-right">{item.integratedLufs === null ? '–' : formatNumber(item.integratedLufs, 1)}</td>
            <td className="text-right whitespace-nowrap">
              <span className="text-soft">{item.noiseFloorDbfs[0] === null ? '–' : formatNumber(item.noiseFloorDbfs[0], 0)}</span> →{' '}
              {item.noiseFloorDbfs[1] === null ? '–' : formatNumber(item.noiseFloorDbfs[1], 0)}
            </td>
            <td className="w-[38%] text-[12px]" data-ear={item.needsEar.length}>
              {item.problem ? <span className="text-removed">{item.problem}</span> : setMinus(item.needsEar.join(' '))}
            </td>
            <td className="w-6 text-result">{item.accepted && <Check size={15} aria-label="Heard, and good" />}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function State({ item: { step, job, passed } }: { readonly item: BatchItemView }) {
  if (step === 'done') return <span className={passed ? 'text-result' : 'text-removed'}>{passed ? 'passed' : 'missed'}</span>;
  if (step === 'failed') return <span className="font-semibold text-removed">failed</span>;
  return (
    <span className="text-soft">
      {job.state === 'queued' ? `waits for ${WORDS[step]}` : `${WORDS[step]} ${Math.round(100 * job.progress)} %`}
      <i aria-hidden className="mt-0.5 block h-[2px] w-[90px] bg-line">
        <i className="block h-full bg-result" style={{ width: `${100 * job.progress}%` }} />
      </i>
    </span>
  );
}
