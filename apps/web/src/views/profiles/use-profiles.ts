import type { ProfileView } from '@euphonos/contracts';
import { parseProfileFile } from '@euphonos/dsp';
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { jsonOf } from '../../components/file-button.js';
import { keepProfile, listProfiles, removeProfile, renameProfile } from '../../api/client.js';

const tell = (error: unknown): void => {
  toast.error(error instanceof Error ? error.message : String(error), { id: 'profiles' });
};

/** The profiles that were kept, those of this session first; read when `open`. */
export function useProfiles(open: boolean, sessionId: string) {
  const [profiles, setProfiles] = useState<readonly ProfileView[] | null>(null);
  const reload = useCallback(async (): Promise<void> => {
    const all = await listProfiles();
    setProfiles([...all.filter((each) => each.sessionId === sessionId), ...all.filter((each) => each.sessionId !== sessionId)]);
  }, [sessionId]);
  useEffect(() => {
    if (open) reload().catch(tell);
  }, [open, reload]);
  const then = (work: Promise<unknown>): Promise<void> => work.then(reload).catch(tell);
  return {
    profiles,
    keep: (file: unknown) => then(keepProfile(file, sessionId)),
    rename: (id: string, name: string) => then(renameProfile(id, name)),
    remove: (id: string) => then(removeProfile(id)),
    /** Keeps the profile of a file of the user. */
    read: (file: File) => then(jsonOf(file, '.noise.json').then((json) => keepProfile(parseProfileFile(json)))),
  };
}
