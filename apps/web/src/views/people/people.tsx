import { ROLES, type InvitationMade, type OpenInvitation, type PersonView, type Role } from '@euphonos/contracts';
import { format, formatDistanceToNow } from 'date-fns';
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { changePerson, listInvitations, listPeople, renewPassword, takeInvitationBack } from '../../api/people.js';
import { RoomField } from '../../components/room-field.js';
import { Notice } from '../../components/notice.js';
import { useApp } from '../../store/store.js';
import { DoneList } from './done-list.js';
import { InviteForm } from './invite-form.js';
import { LinkShown } from './link-shown.js';

/** Accounts, links that are open, and who did what: for owners. */
export function People() {
  const me = useApp(({ who }) => who.who?.person?.id);
  const [people, setPeople] = useState<readonly PersonView[]>([]);
  const [open, setOpen] = useState<readonly OpenInvitation[]>([]);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [renewal, setRenewal] = useState<{ readonly made: InvitationMade; readonly forWhom: string } | null>(null);
  const load = useCallback(
    () =>
      void Promise.all([listPeople(), listInvitations()]).then(
        ([known, links]) => {
          setPeople(known);
          setOpen(links);
        },
        (error: Error) => setTrouble(error.message),
      ),
    [],
  );
  useEffect(load, [load]);
  const act = (work: Promise<unknown>): void => void work.then(load, (error: Error) => void toast.error(error.message));
  const renew = ({ id, name }: PersonView): void =>
    void renewPassword(id).then(
      (made) => {
        setRenewal({ made, forWhom: name });
        load();
      },
      (error: Error) => void toast.error(error.message),
    );
  return (
    <main className="min-h-0 grow overflow-y-auto">
      <div className="mx-auto max-w-[1080px] px-5 py-7">
        <h1 className="m-0 text-[22px]">People</h1>
        {trouble && <Notice tone="trouble">{trouble}</Notice>}
        <ul aria-label="People" className="m-0 mt-4 list-none p-0">
          {people.map((person) => (
            <PersonLine key={person.id} person={person} own={person.id === me} act={act} renew={renew} />
          ))}
        </ul>
        {renewal && <LinkShown {...renewal} />}
        <section aria-labelledby="invite" className="mt-7">
          <h2 id="invite" className="m-0 mb-2 text-[16px]">
            Invite
          </h2>
          <InviteForm onInvited={load} />
          {open.length > 0 && (
            <ul aria-label="Open links" className="m-0 mt-3 list-none p-0 text-[13px]">
              {open.map(({ id, kind, role, note, madeBy, expiresAt }) => (
                <li key={id} className="flex items-baseline gap-4 border-t border-line py-1">
                  <span className="grow truncate">
                    {note}
                    <span className="text-soft">
                      {' '}
                      · {kind === 'join' ? role : 'another password'}
                      {madeBy && `, by ${madeBy}`}, until {format(expiresAt, 'd MMM HH:mm')}
                    </span>
                  </span>
                  <button type="button" className="press py-0!" onClick={() => act(takeInvitationBack(id))}>
                    Take back
                  </button>
                </li>
              ))}
            </ul>
          )}
        </section>
        <DoneList people={people} />
      </div>
    </main>
  );
}

interface LineProps {
  readonly person: PersonView;
  readonly own: boolean;
  readonly act: (work: Promise<unknown>) => void;
  readonly renew: (person: PersonView) => void;
}

function PersonLine({ person, own, act, renew }: LineProps) {
  const { id, name, email, role, disabled, lastSeenAt, lockedUntil, secondStep } = person;
  return (
    <li className={`flex items-center gap-4 border-t border-line py-2 ${disabled ? 'text-soft' : ''}`}>
      <span className="min-w-0 grow">
        <span className="block truncate font-serif text-[16px] font-semibold">
          {name}
          {own && <span className="font-sans text-[13px] font-normal text-soft"> · you</span>}
        </span>
        <span className="block truncate text-[12px] text-soft">
          {email}
          {disabled ? ' · may not sign in' : lastSeenAt ? ` · seen ${formatDistanceToNow(lastSeenAt)} ago` : ' · not signed in'}
          {secondStep && ' · two steps'}
          {lockedUntil && <span className="text-removed"> · locked until {format(lockedUntil, 'HH:mm')} after wrong passwords</span>}
        </span>
      </span>
      <RoomField
        of={name}
        usedBytes={person.usedBytes}
        mostBytes={person.mostBytes}
        onChange={(mostBytes) => act(changePerson(id, { mostBytes }))}
      />
      <select
        aria-label={`Role of ${name}`}
        className="rounded-sheet border border-line bg-sheet px-1 py-0.5"
        value={role}
        onChange={({ target }) => act(changePerson(id, { role: target.value as Role }))}
      >
        {ROLES.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </select>
      <button type="button" className="press w-[126px]" disabled={disabled} onClick={() => renew(person)}>
        New password …
      </button>
      <button type="button" className="press w-[96px]" disabled={own} onClick={() => act(changePerson(id, { disabled: !disabled }))}>
        {disabled ? 'Let in again' : 'Let go'}
      </button>
    </li>
  );
}
