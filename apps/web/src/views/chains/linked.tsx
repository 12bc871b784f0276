import type { SessionDocument, Track } from '@euphonos/engine';
import { Link2 } from 'lucide-react';
import { edited } from '../../store/session-slice.js';
import { useAppDispatch } from '../../store/store.js';

/** Says with whom a track has its chain in common, and lets it go. */
export function Linked({ track, document }: { readonly track: Track; readonly document: SessionDocument }) {
  const dispatch = useAppDispatch();
  const others = document.tracks.filter(({ id, chainLink }) => chainLink === track.chainLink && id !== track.id).map(({ name }) => name);
  return (
    <p className="m-0 flex items-baseline gap-2 border-y border-line bg-paper px-4 py-1 text-[12px]">
      <Link2 size={12} className="translate-y-[2px]" />
      <span className="min-w-0 grow truncate" title={others.join(', ')}>
        One chain with {others.join(', ')}
      </span>
      <button
        type="button"
        className="press px-1.5! py-0!"
        title="From now on this track has a chain of its own"
        onClick={() => dispatch(edited({ type: 'unlink-chains', trackIds: [track.id] }))}
      >
        Let go
      </button>
    </p>
  );
}
