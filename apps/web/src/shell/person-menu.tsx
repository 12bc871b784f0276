import { DropdownMenu } from 'radix-ui';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { getWho, signOut } from '../api/who.js';
import { setToken } from '../api/token.js';
import { store, useApp, useAppDispatch } from '../store/store.js';
import { isOwner, whoKnown } from '../store/who-slice.js';

const ROLES = { owner: 'owner', engineer: 'engineer', listener: 'listener' } as const;
const SAVE_PATIENCE_MS = 3000;

/** What is not saved yet is sent before the door closes. */
async function saved(): Promise<boolean> {
  for (const end = Date.now() + SAVE_PATIENCE_MS; Date.now() < end;) {
    const { session } = store.getState();
    if (!session || session.save.kind === 'saved') return true;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  return false;
}

/** Whoever is signed in: their account, the others for owners, the way out. Nothing where there are no accounts. */
export function PersonMenu() {
  const state = useApp(({ who }) => who);
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const person = state.who?.person;
  if (!person) return null;
  const leave = async (): Promise<void> => {
    if (!(await saved()))
      return void toast.error('Something is not saved yet, so you are still signed in. It is saved as soon as the server answers.');
    try {
      await signOut();
      void navigate('/');
      setToken(null);
      dispatch(whoKnown(await getWho()));
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const item = 'cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-faint';
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="rounded-sheet border border-line px-2 py-0.5 hover:border-ink"
        title={`${person.name}, ${ROLES[person.role]}`}
      >
        {person.name}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} className="z-20 min-w-[200px] rounded-sheet border border-ink bg-sheet py-1.5">
          <p className="m-0 border-b border-line px-3 pb-1.5 text-[12px] text-soft">
            {person.email}, {ROLES[person.role]}
          </p>
          <DropdownMenu.Item className={item} onSelect={() => void navigate('/account')}>
            Password and devices
          </DropdownMenu.Item>
          {isOwner(state) && (
            <DropdownMenu.Item className={item} onSelect={() => void navigate('/people')}>
              People
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={() => void leave()}>
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
