import type { InvitationMade } from '@euphonos/contracts';
import { format } from 'date-fns';
import { Copy } from 'lucide-react';
import { toast } from 'sonner';

/** A link that is told once: whoever made it hands it on. */
export function LinkShown({ made: { link, expiresAt }, forWhom }: { readonly made: InvitationMade; readonly forWhom: string }) {
  return (
    <div role="status" className="rounded-sheet border border-result bg-sheet p-3">
      <p className="m-0 text-[13px]">
        Send this to {forWhom}. It is shown this once, works once, and until {format(expiresAt, 'd MMMM, HH:mm')}.
      </p>
      <div className="mt-2 flex items-center gap-2">
        <input
          aria-label="The link"
          readOnly
          value={link}
          onFocus={({ currentTarget }) => currentTarget.select()}
          className="min-w-0 grow rounded-sheet border border-line bg-transparent px-2 py-1 text-[12px]"
        />
        <button
          type="button"
          className="press flex items-center gap-1.5"
          onClick={() =>
            // Over plain http browsers keep it from pages: then it is marked, to be copied by hand.
            void (navigator.clipboard?.writeText(link) ?? Promise.reject(new Error())).then(
              () => toast('Copied.'),
              () => toast.error('This browser copies for https pages alone: mark the link and copy it.'),
            )
          }
        >
          <Copy size={13} /> Copy
        </button>
      </div>
    </div>
  );
}
