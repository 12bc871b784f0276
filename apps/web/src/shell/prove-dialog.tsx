import { useEffect, useRef, useState, type FormEvent } from 'react';
import { onProve, prove } from '../api/prove.js';
import { Dialog } from '../components/dialog.js';
import { Field } from '../components/field.js';

/** Asks for the password once more, before something that gives or takes access. */
export function ProveDialog() {
  const [open, setOpen] = useState(false);
  const [password, setPassword] = useState('');
  const [trouble, setTrouble] = useState<string | null>(null);
  const answer = useRef<(given: boolean) => void>(() => undefined);
  useEffect(
    () =>
      onProve(() => {
        setOpen(true);
        return new Promise((resolve) => (answer.current = resolve));
      }),
    [],
  );
  const close = (given: boolean): void => {
    setOpen(false);
    setPassword('');
    setTrouble(null);
    answer.current(given);
  };
  const send = (event: FormEvent): void => {
    event.preventDefault();
    prove(password).then(
      () => close(true),
      (error: Error) => {
        setTrouble(error.message);
        setPassword('');
      },
    );
  };
  return (
    <Dialog open={open} title="Your password once more" onClose={() => close(false)}>
      <form onSubmit={send} className="flex flex-col gap-3">
        <p className="m-0">This gives or takes access to what the studio holds. Once given, it is not asked for again for ten minutes.</p>
        <Field label="Password" type="password" autoComplete="current-password" value={password} onChange={setPassword} autoFocus />
        {trouble && (
          <p role="alert" className="m-0 text-[13px] text-removed">
            {trouble}
          </p>
        )}
        <button type="submit" className="press-strong self-start" disabled={password === ''}>
          Go on
        </button>
      </form>
    </Dialog>
  );
}
