import { setMinus } from '../../../components/figures.js';
import type { Version } from '@euphonos/engine';
import { format } from 'date-fns';
import { X } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useEffect, useState } from 'react';
import { useKeys } from '../../../shell/use-keys.js';
import { changed } from '../../../store/listening-slice.js';
import { edited } from '../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';

/** The version that is heard and seen in place of the present state. */
export const useShownVersion = (): Version | null =>
  useApp(({ session, listening }) => session?.history?.present.versions.find(({ id }) => id === listening.shownVersion) ?? null);

/** Settings kept under names: one is heard and seen in the place of the present ones, or brought back. */
export function Versions() {
  const versions = useApp(({ session }) => session!.history!.present.versions);
  const dispatch = useAppDispatch();
  const [name, setName] = useState('');
  const { shownVersion, lastVersion } = useApp(({ listening }) => listening);
  /** The one shown last in place of the present settings, and back. */
  const turn = (): void => {
    const other = versions.find(({ id }) => id === lastVersion) ?? versions[versions.length - 1];
    if (shownVersion) dispatch(changed({ shownVersion: null }));
    else if (other) dispatch(changed({ shownVersion: other.id, lastVersion: other.id }));
  };
  useKeys('v', turn);
  // Elsewhere nothing would say that a version is heard.
  useEffect(() => () => void dispatch(changed({ shownVersion: null })), [dispatch]);
  const keep = (event: React.FormEvent): void => {
    event.preventDefault();
    const words = name.trim() || `Version ${versions.length + 1}`;
    dispatch(edited({ type: 'keep-version', id: crypto.randomUUID(), name: words, keptAt: new Date().toISOString() }));
    setName('');
  };
  return (
    <Popover.Root>
      <Popover.Trigger className="px-1 text-[12px] text-soft hover:text-ink">
        {versions.length === 0 ? 'versions' : versions.length === 1 ? '1 version' : `${versions.length} versions`}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          aria-label="Versions"
          className="z-20 max-h-[60vh] w-[340px] overflow-auto rounded-sheet border border-ink bg-sheet p-3 text-[13px]"
        >
          <form className="mb-2 flex gap-2" onSubmit={keep}>
            <input
              aria-label="Name of the version"
              maxLength={120}
              className="min-w-0 grow rounded-sheet border border-line bg-paper px-2 py-0.5"
              placeholder={`Version ${versions.length + 1}`}
              value={name}
              onChange={({ target }) => setName(target.value)}
            />
            <button type="submit" className="press shrink-0 py-0.5!">
              Keep
            </button>
          </form>
          {versions.length === 0 && (
            <p className="m-0 text-[12px] text-soft">Keep the settings as they are now under a name: go on, and compare with a key.</p>
          )}
          <ul className="m-0 list-none p-0">
            {[...versions].reverse().map((version) => (
              <li key={version.id} className="flex items-center gap-2 border-t border-faint py-1">
                <span className="min-w-0 grow truncate" title={version.name}>
                  {setMinus(version.name)} <span className="text-[12px] text-soft">{format(version.keptAt, 'd MMM HH:mm')}</span>
                </span>
                <Popover.Close asChild>
                  <button
                    type="button"
                    className="press px-2! py-0!"
                    title="Hear and see it in place of the present settings (V)"
                    onClick={() => dispatch(changed({ shownVersion: version.id, lastVersion: version.id }))}
                  >
                    Show
                  </button>
                </Popover.Close>
                <button
                  type="button"
                  className="press px-2! py-0!"
                  title="Bring its settings back; undo takes that back"
                  onClick={() => dispatch(edited({ type: 'restore-version', id: version.id, name: version.name }))}
                >
                  Restore
                </button>
                <button
                  type="button"
                  aria-label={`Drop ${version.name}`}
                  className="text-soft hover:text-removed"
                  onClick={() => dispatch(edited({ type: 'drop-version', id: version.id, name: version.name }))}
                >
                  <X size={13} />
                </button>
              </li>
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Says that a version is heard and seen, and how to leave it. */
export function VersionShown({ version }: { readonly version: Version }) {
  const dispatch = useAppDispatch();
  const back = (): void => void dispatch(changed({ shownVersion: null }));
  return (
    <div role="status" className="mx-4 mb-2 flex items-center gap-2 rounded-sheet border border-focus px-2 py-1 text-[12px]">
      <span className="min-w-0 grow truncate">
        You hear and see <b>{version.name}</b>.
      </span>
      <button type="button" className="press shrink-0 py-0!" onClick={back}>
        Back <span className="key">V</span>
      </button>
      <button
        type="button"
        className="press shrink-0 py-0!"
        onClick={() => {
          dispatch(edited({ type: 'restore-version', id: version.id, name: version.name }));
          back();
        }}
      >
        Restore
      </button>
    </div>
  );
}
