import { PASSWORD_LENGTHS, type DoneView, type SignedIn } from '@euphonos/contracts';
import { format, formatDistanceToNow } from 'date-fns';
import { useCallback, useEffect, useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { changePassword, endSignIn, listHappened, listSignIns } from '../../api/who.js';
import { Field } from '../../components/field.js';
import { useApp } from '../../store/store.js';
import { deviceWords } from './device-words.js';
import { DoneRows } from './done-list.js';
import { SecondStep } from './second-step.js';

/** One's own account: the password, and the devices that are signed in. */
export function Account() {
  const person = useApp(({ who }) => who.who?.person);
  const [devices, setDevices] = useState<readonly SignedIn[]>([]);
  const [happened, setHappened] = useState<readonly DoneView[]>([]);
  const [present, setPresent] = useState('');
  const [next, setNext] = useState('');
  const [trouble, setTrouble] = useState<string | null>(null);
  const load = useCallback(() => void listSignIns().then(setDevices, (error: Error) => void toast.error(error.message)), []);
  useEffect(load, [load]);
  useEffect(() => void listHappened().then(setHappened, () => undefined), [devices]);
  if (!person) return <p className="p-6 text-soft">There are no accounts here: this installation is yours alone.</p>;
  const send = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    setTrouble(null);
    try {
      await changePassword(present, next);
      setPresent('');
      setNext('');
      toast('The password is changed; all other devices are signed out.');
      load();
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  return (
    <main className="min-h-0 grow overflow-y-auto">
      <div className="mx-auto max-w-[760px] px-5 py-7">
        <h1 className="m-0 text-[22px]">{person.name}</h1>
        <p className="m-0 mt-1 text-soft">
          {person.email}, {person.role}
        </p>
        <section aria-labelledby="devices" className="mt-7">
          <h2 id="devices" className="m-0 text-[16px]">
            Where you are signed in
          </h2>
          <ul className="m-0 mt-1 list-none p-0">
            {devices.map(({ id, agent, since, seenAt, here }) => (
              <li key={id} className="flex items-baseline gap-4 border-t border-line py-1.5">
                <span className="grow truncate" title={agent}>
                  {deviceWords(agent)}
                  {here && <span className="text-result"> · here</span>}
                </span>
                <span className="text-[13px] text-soft">
                  since {format(since, 'd MMM HH:mm')}, seen {formatDistanceToNow(seenAt)} ago
                </span>
                {!here && (
                  <button
                    type="button"
                    className="press py-0!"
                    onClick={() => void endSignIn(id).then(load, (error: Error) => void toast.error(error.message))}
                  >
                    Sign out there
                  </button>
                )}
              </li>
            ))}
          </ul>
          <p className="m-0 border-t border-line pt-1.5 text-[12px] text-soft">
            Each ends after twelve hours, and after half an hour without an open page.
          </p>
        </section>
        <section aria-labelledby="password" className="mt-7">
          <h2 id="password" className="m-0 text-[16px]">
            Another password
          </h2>
          <form className="mt-2 flex max-w-[340px] flex-col gap-3" onSubmit={(event) => void send(event)}>
            <Field label="Present password" type="password" autoComplete="current-password" value={present} onChange={setPresent} />
            <Field
              label="New password"
              type="password"
              autoComplete="new-password"
              value={next}
              onChange={setNext}
              hint={`At least ${PASSWORD_LENGTHS.least} characters; all other devices are signed out.`}
            />
            {trouble && (
              <p role="alert" className="m-0 text-[13px] text-removed">
                {trouble}
              </p>
            )}
            <button type="submit" className="press-strong self-start" disabled={present === '' || next === ''}>
              Change it
            </button>
          </form>
        </section>
        <SecondStep />
        <section aria-labelledby="happened" className="mt-7">
          <h2 id="happened" className="m-0 text-[16px]">
            What happened to this account
          </h2>
          <DoneRows rows={happened} />
          <p className="m-0 border-t border-line pt-1.5 text-[12px] text-soft">
            Is there something that you do not know of? Choose another password, and tell an owner.
          </p>
        </section>
      </div>
    </main>
  );
}
