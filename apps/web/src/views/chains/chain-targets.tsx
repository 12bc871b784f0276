import type { Track } from '@euphonos/engine';

/** Where a chain goes: tracks by their ids, the whole, or the clip that is chosen. */
export interface Targets {
  readonly trackIds: ReadonlySet<string>;
  readonly linked: boolean;
}

interface Props {
  readonly tracks: readonly Track[];
  readonly targets: Targets;
  readonly onChange: (targets: Targets) => void;
}

/** Which tracks take the chain, and whether they have it in common from then on. Nothing for a session of one track. */
export function ChainTargets({ tracks, targets, onChange }: Props) {
  if (tracks.length < 2) return null;
  const set = (id: string, on: boolean): void => {
    const trackIds = new Set(targets.trackIds);
    if (on) trackIds.add(id);
    else trackIds.delete(id);
    onChange({ ...targets, trackIds });
  };
  const all = targets.trackIds.size === tracks.length;
  return (
    <fieldset className="m-0 mb-3 border-0 border-b border-line p-0 pb-2 text-[13px]">
      <legend className="p-0 text-soft">Taken onto</legend>
      <div className="flex flex-wrap gap-x-3 gap-y-1">
        {tracks.map(({ id, name }) => (
          <label key={id} className="flex items-center gap-1">
            <input
              type="checkbox"
              className="accent-(--ink)"
              checked={targets.trackIds.has(id)}
              onChange={({ target }) => set(id, target.checked)}
            />
            {name}
          </label>
        ))}
        <button
          type="button"
          className="text-soft underline decoration-dotted hover:text-ink"
          onClick={() => onChange({ ...targets, trackIds: new Set(all ? [] : tracks.map(({ id }) => id)) })}
        >
          {all ? 'none' : 'all'}
        </button>
      </div>
      <label
        className={`mt-1 flex items-center gap-1 ${targets.trackIds.size < 2 ? 'text-soft' : ''}`}
        title="One chain for all of them: a change in one is heard in every one"
      >
        <input
          type="checkbox"
          className="accent-(--ink)"
          disabled={targets.trackIds.size < 2}
          checked={targets.linked && targets.trackIds.size > 1}
          onChange={({ target }) => onChange({ ...targets, linked: target.checked })}
        />
        linked: a change in one is a change in all
      </label>
    </fieldset>
  );
}
