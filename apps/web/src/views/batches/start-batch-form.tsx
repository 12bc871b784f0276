import type { ChainView, ProfileView } from '@euphonos/contracts';
import { targets } from '@euphonos/engine';
import { format } from 'date-fns';
import { useEffect, useState, type FormEvent, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { startBatch } from '../../api/batches.js';
import { listProfiles } from '../../api/client.js';
import { listChains } from '../../api/productions.js';

const FIELD = 'rounded-sheet border border-line bg-paper px-2 py-1';
const OWN = '';

/** A new batch: with which chain, noise and target, and whether a folder feeds it. */
export function StartBatchForm() {
  const navigate = useNavigate();
  const [chains, setChains] = useState<readonly ChainView[]>([]);
  const [profiles, setProfiles] = useState<readonly ProfileView[]>([]);
  const [name, setName] = useState(() => `Batch of ${format(new Date(), 'd MMMM')}`);
  const [chainId, setChainId] = useState(OWN);
  const [profileId, setProfileId] = useState(OWN);
  const [targetName, setTargetName] = useState(targets[0]!.name);
  const [watching, setWatching] = useState(false);
  useEffect(() => {
    listChains().then(setChains, (error: Error) => toast.error(error.message));
    listProfiles().then(setProfiles, (error: Error) => toast.error(error.message));
  }, []);
  const start = (event: FormEvent): void => {
    event.preventDefault();
    startBatch({
      name: name.trim(),
      chain: chains.find(({ id }) => id === chainId)?.file ?? null,
      target: targets.find((target) => target.name === targetName)!,
      profileId: profileId === OWN ? null : profileId,
      watching,
    }).then(
      ({ id }) => navigate(`/batches/${id}`),
      (error: Error) => toast.error(error.message),
    );
  };
  return (
    <form
      className="flex flex-wrap items-end gap-x-4 gap-y-2 rounded-sheet border border-line bg-sheet px-4 py-3 text-[13px]"
      onSubmit={start}
    >
      <Labelled title="Name">
        <input className={`${FIELD} w-[190px]`} value={name} maxLength={120} onChange={({ target }) => setName(target.value)} />
      </Labelled>
      <Labelled title="Chain">
        <select className={FIELD} value={chainId} onChange={({ target }) => setChainId(target.value)}>
          <option value={OWN}>each its own, by its survey</option>
          {chains.map(({ id, file }) => (
            <option key={id} value={id}>
              {file.name}
            </option>
          ))}
        </select>
      </Labelled>
      <Labelled title="Noise">
        <select className={FIELD} value={profileId} onChange={({ target }) => setProfileId(target.value)}>
          <option value={OWN}>each its own, found and judged</option>
          {profiles.map((profile) => (
            <option key={profile.id} value={profile.id}>
              {profile.name}
            </option>
          ))}
        </select>
      </Labelled>
      <Labelled title="Target">
        <select className={FIELD} value={targetName} onChange={({ target }) => setTargetName(target.value)}>
          {targets.map((target) => (
            <option key={target.name}>{target.name}</option>
          ))}
        </select>
      </Labelled>
      <label
        className="flex items-center gap-1.5 py-1"
        title="A folder of its own beside the store: what is put into it is cleaned, results appear in its folder “done”"
      >
        <input type="checkbox" checked={watching} onChange={({ target }) => setWatching(target.checked)} /> watch a folder
      </label>
      <button type="submit" className="press-strong ml-auto" disabled={name.trim() === ''}>
        Start
      </button>
    </form>
  );
}

const Labelled = ({ title, children }: { readonly title: string; readonly children: ReactNode }) => (
  <label className="flex flex-col gap-0.5">
    <span className="text-[12px] text-soft">{title}</span>
    {children}
  </label>
);
