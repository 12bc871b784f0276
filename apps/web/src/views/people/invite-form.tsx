import { ROLES, type InvitationMade, type Role } from '@euphonos/contracts';
import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { invite } from '../../api/people.js';
import { Choice } from '../../components/choice.js';
import { LinkShown } from './link-shown.js';

interface Props {
  /** Shared with them at once. */
  readonly productionId?: string;
  readonly roles?: readonly Role[];
  readonly onInvited?: () => void;
}

const HINTS: Readonly<Record<Role, string>> = {
  owner: 'Everything, people and the state of the installation as well',
  engineer: 'Brings in and works on what is theirs or shared with them',
  listener: 'Hears what is shared, comments at a time, accepts; changes nothing',
};

/** Makes a link with which somebody makes their account. */
export function InviteForm({ productionId, roles = ROLES, onInvited }: Props) {
  const [note, setNote] = useState('');
  const [role, setRole] = useState<Role>(roles.at(-1)!);
  const [made, setMade] = useState<{ readonly made: InvitationMade; readonly forWhom: string } | null>(null);
  const send = (event: FormEvent): void => {
    event.preventDefault();
    invite({ role, note: note.trim(), ...(productionId ? { productionId } : {}) }).then(
      (link) => {
        setMade({ made: link, forWhom: note.trim() });
        setNote('');
        onInvited?.();
      },
      (error: Error) => void toast.error(error.message),
    );
  };
  return (
    <div className="flex flex-col gap-2">
      <form className="flex flex-wrap items-center gap-3" onSubmit={send}>
        <input
          aria-label="Whom to invite"
          placeholder="Whom to invite"
          maxLength={80}
          className="min-w-0 grow rounded-sheet border border-line bg-sheet px-2 py-1"
          value={note}
          onChange={({ target }) => setNote(target.value)}
        />
        {roles.length > 1 && (
          <Choice
            label="Role"
            value={role}
            onChange={setRole}
            choices={roles.map((value) => ({ value, title: value, hint: HINTS[value] }))}
          />
        )}
        <button type="submit" className="press-strong" disabled={note.trim() === ''}>
          Make a link
        </button>
      </form>
      <p className="m-0 text-[12px] text-soft">{HINTS[role]}.</p>
      {made && <LinkShown {...made} />}
    </div>
  );
}
