import type { PersonName, ProductionPerson, ProductionView, Share } from '@euphonos/contracts';
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { listNames, listShared, shareProduction, unshareProduction } from '../../api/people.js';
import { changeProduction } from '../../api/productions.js';
import { RoomField } from '../../components/room-field.js';
import { Choice } from '../../components/choice.js';
import { Dialog } from '../../components/dialog.js';
import { useApp } from '../../store/store.js';
import { isOwner } from '../../store/who-slice.js';
import { InviteForm } from '../people/invite-form.js';

interface Props {
  readonly production: ProductionView;
  readonly onClose: () => void;
}

/** With whom a production is shared, and as what. */
export function Sharing({ production: { id, name, usedBytes, mostBytes: known }, onClose }: Props) {
  const [shared, setShared] = useState<readonly ProductionPerson[]>([]);
  const [names, setNames] = useState<readonly PersonName[]>([]);
  const [most, setMost] = useState(known);
  const state = useApp(({ who }) => who);
  const load = useCallback(
    () =>
      void Promise.all([listShared(id), listNames()]).then(
        ([people, all]) => {
          setShared(people);
          setNames(all);
        },
        (error: Error) => void toast.error(error.message),
      ),
    [id],
  );
  useEffect(load, [load]);
  const act = (work: Promise<void>): void => void work.then(load, (error: Error) => void toast.error(error.message));
  // Owners see all there is.
  const others = names.filter(({ id: one, role }) => role !== 'owner' && !shared.some((known) => known.id === one));
  return (
    <Dialog open title={`${name}: shared with`} onClose={onClose}>
      <ul aria-label="Shared with" className="m-0 list-none p-0 text-[13px]">
        {shared.map((person) => (
          <li key={person.id} className="flex items-center gap-3 border-t border-line py-1.5">
            <span className="grow truncate font-semibold">{person.name}</span>
            {person.role === 'listener' ? (
              <span className="text-soft">hears</span>
            ) : (
              <Choice
                label={`What ${person.name} may do`}
                value={person.share}
                onChange={(share: Share) => act(shareProduction(id, person.id, share))}
                choices={[
                  { value: 'engineer', title: 'works on it' },
                  { value: 'listener', title: 'hears it', hint: 'Hears, comments, accepts' },
                ]}
              />
            )}
            <button type="button" className="press py-0!" onClick={() => act(unshareProduction(id, person.id))}>
              Take off
            </button>
          </li>
        ))}
        {shared.length === 0 && <li className="text-soft">Nobody but the owners of this installation.</li>}
      </ul>
      {isOwner(state) && (
        <div className="mt-3 flex items-baseline gap-2 border-t border-line pt-2 text-[13px]">
          <span className="grow">Room</span>
          <RoomField
            of={name}
            usedBytes={usedBytes}
            mostBytes={most}
            onChange={(mostBytes) =>
              void changeProduction(id, { mostBytes }).then(
                () => setMost(mostBytes),
                (error: Error) => void toast.error(error.message),
              )
            }
          />
        </div>
      )}
      {others.length > 0 && (
        <label className="mt-3 flex items-center gap-2 text-[13px]">
          Share with
          <select
            aria-label="Share with"
            className="min-w-0 grow rounded-sheet border border-line bg-sheet px-1 py-1"
            value=""
            onChange={({ target }) => {
              const person = others.find(({ id: one }) => one === target.value);
              if (person) act(shareProduction(id, person.id, person.role === 'listener' ? 'listener' : 'engineer'));
            }}
          >
            <option value="">…</option>
            {others.map((person) => (
              <option key={person.id} value={person.id}>
                {person.name}, {person.role}
              </option>
            ))}
          </select>
        </label>
      )}
      <div className="mt-4 border-t border-line pt-3 text-[13px]">
        <InviteForm productionId={id} roles={isOwner(state) ? ['engineer', 'listener'] : ['listener']} />
      </div>
    </Dialog>
  );
}
