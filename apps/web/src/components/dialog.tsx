import { Dialog as Radix } from 'radix-ui';
import { X } from 'lucide-react';
import type { ReactNode } from 'react';

interface Props {
  readonly open: boolean;
  readonly title: string;
  readonly children: ReactNode;
  readonly onClose: () => void;
}

export function Dialog({ open, title, children, onClose }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className={`fixed inset-0 z-20 bg-ink/25`} />
        <Radix.Content
          aria-describedby={undefined}
          className="fixed z-20 left-1/2 top-1/2 max-h-[86vh] w-[560px] max-w-[92vw] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-sheet border border-ink bg-sheet p-5"
        >
          <div className="mb-3 flex items-center justify-between">
            <Radix.Title className="m-0 font-serif text-[18px]">{title}</Radix.Title>
            <Radix.Close aria-label="Close" className="rounded-sheet p-1 text-soft hover:text-ink">
              <X size={16} />
            </Radix.Close>
          </div>
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
