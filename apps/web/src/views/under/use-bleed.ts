import { defaultTreatment, type ListRow, type TreatmentSettings } from '@euphonos/dsp';
import type { SessionDocument, Track } from '@euphonos/engine';
import { useState } from 'react';
import { toast } from 'sonner';
import { formatNumber } from '../../components/figures.js';
import { edited } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

/** Tracks that may hear each other: speech that is not muted. */
export const microphones = ({ tracks }: Pick<SessionDocument, 'tracks'>): readonly Track[] =>
  tracks.filter(({ role, muted }) => role === 'speech' && !muted);

const seconds = (rows: readonly ListRow[]): number =>
  rows.reduce((sum, row) => sum + (row['endSeconds'] as number) - (row['startSeconds'] as number), 0);

/** Looks where microphones hear somebody else only, and lowers that on all of them, or on one: one step. */
export function useBleed() {
  const { mixing } = useWorkbench();
  const document = useApp(({ session }) => session!.history!.present);
  const dispatch = useAppDispatch();
  const [working, setWorking] = useState(false);
  const look = async (only?: string): Promise<void> => {
    if (working) return;
    setWorking(true);
    try {
      const tracks = microphones(document);
      const found = await mixing.bleed(tracks);
      const items = tracks.flatMap(({ id, chain }, i) => {
        const rows = found[i]!;
        const known = chain.treatments.find(({ kind }) => kind === 'bleed');
        if ((only !== undefined && id !== only) || (rows.length === 0 && !known)) return [];
        const settings = { ...(known ?? defaultTreatment('bleed')), bypassed: false, bleed: rows } as TreatmentSettings;
        return [{ trackId: id, treatmentId: known?.id ?? crypto.randomUUID(), settings }];
      });
      if (items.length === 0) return void toast('Nobody is heard in another’s microphone while they are silent.', { id: 'bleed' });
      dispatch(edited({ type: 'take-suggestions', title: 'Lower bleed', items }));
      const all = items.reduce((sum, { settings }) => sum + seconds(settings['bleed'] as readonly ListRow[]), 0);
      toast(`${formatNumber(all, 0)} s of others lowered on ${items.length === 1 ? '1 microphone' : `${items.length} microphones`}.`, {
        id: 'bleed',
      });
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error), { id: 'bleed' });
    } finally {
      setWorking(false);
    }
  };
  return { working, look };
}
