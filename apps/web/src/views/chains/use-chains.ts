import type { ChainView } from '@euphonos/contracts';
import { parseChainFile, type ChainFile } from '@euphonos/engine';
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { jsonOf } from '../../components/file-button.js';
import { changeChain, keepChain, listChains, removeChain } from '../../api/productions.js';

const tell = (error: unknown): void => {
  toast.error(error instanceof Error ? error.message : String(error), { id: 'chains' });
};

/** The chains that were kept; read when `open`. */
export function useChains(open: boolean) {
  const [kept, setKept] = useState<readonly ChainView[] | null>(null);
  const reload = useCallback((): Promise<void> => listChains().then(setKept), []);
  useEffect(() => {
    if (open) reload().catch(tell);
  }, [open, reload]);
  const then = (work: Promise<unknown>): Promise<void> => work.then(reload).catch(tell);
  return {
    kept,
    keep: (file: ChainFile) => then(keepChain(file)),
    rename: (id: string, name: string) => then(changeChain(id, { name })),
    /** Other settings under the same name. */
    replace: (id: string, file: ChainFile) => then(changeChain(id, { file })),
    /** Every recording that comes in gets it, or none does. */
    useForNew: (id: string, forNew: boolean) => then(changeChain(id, { forNew })),
    remove: (id: string) => then(removeChain(id)),
    /** Keeps the chain of a file of the user. */
    read: (file: File) => then(jsonOf(file, '.chain.json').then((json) => keepChain(parseChainFile(json)))),
  };
}
