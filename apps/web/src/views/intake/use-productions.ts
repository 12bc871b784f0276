import type { ProductionView } from '@euphonos/contracts';
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { listProductions } from '../../api/productions.js';

/** The productions, and how to read them again. */
export function useProductions() {
  const [productions, setProductions] = useState<readonly ProductionView[]>([]);
  const reload = useCallback(() => {
    listProductions().then(setProductions, (error: Error) => void toast.error(error.message, { id: 'productions' }));
  }, []);
  useEffect(reload, [reload]);
  return { productions, reload };
}
