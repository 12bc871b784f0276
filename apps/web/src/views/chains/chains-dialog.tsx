import type { ChainSpec } from '@euphonos/dsp';
import { chainOfFile, chainToFile, startingChains, WHOLE, type ChainFile, type SessionDocument } from '@euphonos/engine';
import { useState } from 'react';
import { toast } from 'sonner';
import { Dialog } from '../../components/dialog.js';
import { FileButton } from '../../components/file-button.js';
import { changed } from '../../store/listening-slice.js';
import { edited } from '../../store/session-slice.js';
import { useAppDispatch } from '../../store/store.js';
import { ChainDifferences } from './chain-differences.js';
import { ChainLine } from './chain-line.js';
import { ChainTargets, type Targets } from './chain-targets.js';
import { useChains } from './use-chains.js';

interface Props {
  readonly document: SessionDocument;
  /** Whose chain is at work: a track's, a clip's, or that of the whole. */
  readonly owner: { readonly trackId: string; readonly clipId?: string };
  readonly chain: ChainSpec;
  /** Clips that take a chain with the one at work. */
  readonly alsoClips?: readonly string[];
  readonly onClose: () => void;
}

/** Chains as things with names: to start from, kept, compared, taken onto what is at work or onto many tracks at once. */
export function ChainsDialog({ document, owner, chain, alsoClips = [], onClose }: Props) {
  const dispatch = useAppDispatch();
  const { kept, keep, rename, replace, useForNew: forNew, remove, read } = useChains(true);
  const [targets, setTargets] = useState<Targets>({ trackIds: new Set([owner.trackId]), linked: false });
  const [compared, setCompared] = useState<string | null>(null);
  const [name, setName] = useState('');
  const ofTracks = owner.clipId === undefined && owner.trackId !== WHOLE;
  const take = (file: ChainFile): void => {
    const trackIds = ofTracks ? [...targets.trackIds] : [owner.trackId];
    if (trackIds.length === 0) return void toast.error('No track is chosen above: choose where the chain goes.');
    const taken = chainOfFile(file, () => crypto.randomUUID());
    dispatch(
      edited({
        type: 'take-chain',
        name: file.name,
        chain: taken,
        trackIds,
        ...(owner.clipId === undefined ? {} : { clipIds: [owner.clipId, ...alsoClips] }),
        ...(ofTracks && targets.linked && trackIds.length > 1 ? { link: crypto.randomUUID() } : {}),
      }),
    );
    dispatch(
      changed({
        openTreatmentId: taken.treatments.find(({ kind }) => kind === 'noise-reduction')?.id ?? taken.treatments[0]?.id ?? null,
        aside: null,
      }),
    );
    onClose();
  };
  const lineOf = (file: ChainFile, key: string) => ({
    file,
    compared: compared === key,
    onTake: () => take(file),
    onCompare: () => setCompared(compared === key ? null : key),
    children: compared === key && <ChainDifferences here={chain} there={{ treatments: file.treatments }} name={file.name} />,
  });
  return (
    <Dialog
      open
      title={
        owner.clipId
          ? alsoClips.length > 0
            ? `Chains for ${alsoClips.length + 1} clips`
            : 'Chains for this clip'
          : owner.trackId === WHOLE
            ? 'Chains for the whole'
            : 'Chains'
      }
      onClose={onClose}
    >
      {ofTracks && <ChainTargets tracks={document.tracks} targets={targets} onChange={setTargets} />}
      {chain.treatments.length > 0 && (
        <form
          className="mb-3 flex gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            const words = name.trim() || 'My chain';
            void keep(chainToFile(chain, words)).then(() => setName(''));
          }}
        >
          <input
            aria-label="Name of the chain"
            placeholder="My chain"
            maxLength={120}
            className="min-w-0 grow rounded-sheet border border-line bg-paper px-2 py-1"
            value={name}
            onChange={({ target }) => setName(target.value)}
          />
          <button type="submit" className="press-strong shrink-0 py-1!">
            Keep the present chain
          </button>
        </form>
      )}
      {kept && kept.length > 0 && (
        <>
          <h3 className="m-0 font-serif text-[15px]">Kept</h3>
          <ul aria-label="Kept chains" className="m-0 mb-3 list-none p-0">
            {kept.map(({ id, file, forNew: always }) => (
              <ChainLine
                key={id}
                {...lineOf(file, id)}
                kept={{
                  id,
                  onRename: (next) => void rename(id, next),
                  forNew: always,
                  onForNew: () => void forNew(id, !always),
                  onReplace: () => void replace(id, chainToFile(chain, file.name, file.note)),
                  onRemove: () => void remove(id),
                }}
              />
            ))}
          </ul>
        </>
      )}
      <h3 className="m-0 font-serif text-[15px]">To start from</h3>
      <ul aria-label="Starting chains" className="m-0 list-none border-b border-faint p-0">
        {startingChains.map((file) => (
          <ChainLine key={file.name} {...lineOf(file, file.name)} />
        ))}
      </ul>
      <FileButton words="Read a chain from a file" label="Chain file" onFile={(file) => void read(file)} />
    </Dialog>
  );
}
