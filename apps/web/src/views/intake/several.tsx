import { MOST_PARTS, MOST_TRACKS, type Placing } from '@euphonos/engine';
import { Dialog } from '../../components/dialog.js';
import { formatBytes } from '../../components/figures.js';
import { useHotkeys } from 'react-hotkeys-hook';

/** What several files become. */
export type Way = Placing | 'apart';

const ways: readonly {
  readonly way: Way;
  readonly key: string;
  readonly title: string;
  readonly sentence: string;
  /** More files than these cannot become that. */
  readonly most: number;
}[] = [
  {
    way: 'tracks',
    key: '1',
    title: 'One session, a track each',
    sentence: 'People or microphones of one scene. Lined up by the time that they state; what states none begins at the start.',
    most: MOST_TRACKS,
  },
  {
    way: 'sequence',
    key: '2',
    title: 'One session, one after the other',
    sentence: 'Takes of one person: one track and one chain, in the order below.',
    most: MOST_PARTS,
  },
  { way: 'apart', key: '3', title: 'A session each', sentence: 'Pieces of work that have nothing to do with each other.', most: Infinity },
];

/** Asks what several files that came together become. */
export function Several({
  files,
  onWay,
  onClose,
}: {
  readonly files: readonly File[];
  readonly onWay: (way: Way) => void;
  readonly onClose: () => void;
}) {
  const open = ways.filter(({ most }) => files.length <= most);
  useHotkeys(
    '1, 2, 3',
    ({ key: pressed }) => {
      const chosen = open.find(({ key }) => key === pressed);
      if (chosen) onWay(chosen.way);
    },
    { useKey: true },
  );
  return (
    <Dialog open title={`What do these ${files.length} files become?`} onClose={onClose}>
      <div className="flex flex-col gap-2">
        {ways.map(({ way, key, title, sentence, most }) => (
          <button
            key={way}
            type="button"
            disabled={files.length > most}
            className="rounded-sheet border border-line px-3 py-2 text-left not-disabled:hover:border-ink disabled:opacity-45"
            onClick={() => onWay(way)}
          >
            <span className="flex items-baseline justify-between">
              <b className="font-serif text-[16px]">{title}</b>
              <span className="key">{key}</span>
            </span>
            <span className="text-[13px] text-soft">
              {sentence}
              {files.length > most && ` Up to ${most} files; these are ${files.length}.`}
            </span>
          </button>
        ))}
      </div>
      <ol className="mt-3 mb-0 list-decimal max-h-[220px] overflow-auto pl-6 text-[13px] text-soft">
        {files.map((file, i) => (
          <li key={i}>
            <span className="text-ink">{file.name}</span> · {formatBytes(file.size)}
          </li>
        ))}
      </ol>
    </Dialog>
  );
}
