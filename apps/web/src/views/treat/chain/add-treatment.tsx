import { treatments } from '@euphonos/dsp';
import { Plus } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { useKeys } from '../../../shell/use-keys.js';
import { changed } from '../../../store/listening-slice.js';
import { activeTrack, edited } from '../../../store/session-slice.js';
import { useChainOwner } from './chain-owner.js';
import { useApp, useAppDispatch } from '../../../store/store.js';

export function AddTreatment() {
  const [open, setOpen] = useState(false);
  const track = useApp(({ session }) => activeTrack(session))!;
  const owner = useChainOwner(track);
  const dispatch = useAppDispatch();
  useKeys('a', () => setOpen(true));
  const add = (kind: (typeof treatments)[number]['kind']): void => {
    const treatmentId = crypto.randomUUID();
    dispatch(edited({ type: 'add-treatment', ...owner, kind, treatmentId }));
    dispatch(changed({ openTreatmentId: treatmentId }));
  };
  return (
    <div className="border-t border-line">
      <DropdownMenu.Root open={open} onOpenChange={setOpen}>
        <DropdownMenu.Trigger className="flex h-[40px] w-full items-center gap-2 text-soft hover:text-ink">
          <Plus size={14} /> Add a treatment <span className="key">A</span>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            side="top"
            collisionPadding={8}
            className="z-20 grid max-h-(--radix-dropdown-menu-content-available-height) w-[620px] max-w-[96vw] grid-cols-2 overflow-y-auto rounded-sheet border border-ink bg-sheet py-1"
          >
            {treatments.map(({ kind, title, sentence }) => (
              <DropdownMenu.Item
                key={kind}
                onSelect={() => add(kind)}
                className="cursor-pointer px-3 py-1.5 outline-none data-highlighted:bg-faint"
              >
                <b className="block font-semibold">{title}</b>
                <span className="text-[12px] text-soft">{sentence}</span>
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </div>
  );
}
