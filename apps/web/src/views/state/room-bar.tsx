import type { RoomState } from '@euphonos/contracts';
import { formatBytes } from '@euphonos/engine';

/** So little is left that somebody should look. */
const LITTLE_SHARE = 0.1;

interface Part {
  readonly title: string;
  readonly bytes: number;
  readonly className: string;
  readonly why: string;
}

const partsOf = ({ freeBytes, totalBytes, sourceBytes, madeBytes, deliveryBytes }: RoomState): readonly Part[] => [
  { title: 'Recordings', bytes: sourceBytes, className: 'bg-ink', why: 'as they came; nothing else holds them' },
  { title: 'Made of them', bytes: madeBytes, className: 'bg-soft', why: 'samples, peaks, pictures; made again where they are missing' },
  { title: 'Deliveries', bytes: deliveryBytes, className: 'bg-result', why: 'rendered files' },
  {
    title: 'Other programs',
    bytes: Math.max(0, totalBytes - freeBytes - sourceBytes - madeBytes - deliveryBytes),
    className: 'bg-line',
    why: 'and the database',
  },
];

/** The disk from one end to the other, and what lies on it. */
export function RoomBar({ room }: { readonly room: RoomState }) {
  const parts = partsOf(room);
  const { freeBytes, totalBytes } = room;
  const little = freeBytes < LITTLE_SHARE * totalBytes;
  const words = `${formatBytes(freeBytes)} of ${formatBytes(totalBytes)} are free`;
  return (
    <section aria-labelledby="room" className="mt-6">
      <h2 id="room" className="m-0 text-[16px]">
        Room
      </h2>
      <p className={`m-0 mt-1 ${little ? 'text-removed' : 'text-soft'}`}>
        {words}.{little && ' Delete sessions for good, or move the store to a larger disk, before it is full.'}
      </p>
      <div role="img" aria-label={words} className="mt-2 flex h-[14px] overflow-hidden rounded-sheet border border-line bg-sheet">
        {parts.map(({ title, bytes, className }) => (
          <span key={title} className={className} style={{ width: `${(100 * bytes) / totalBytes}%`, minWidth: bytes > 0 ? 2 : 0 }} />
        ))}
      </div>
      <dl className="m-0 mt-2 flex flex-wrap gap-x-8 gap-y-1">
        {parts.map(({ title, bytes, className, why }) => (
          <div key={title} className="flex items-baseline gap-2">
            <span aria-hidden className={`h-[9px] w-[9px] rounded-[2px] ${className}`} />
            <dt>{title}</dt>
            <dd className="tabular-nums m-0">{formatBytes(bytes)}</dd>
            <dd className="m-0 text-[12px] text-soft">{why}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
