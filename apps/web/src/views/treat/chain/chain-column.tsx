import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { useEffect, useMemo, useState } from 'react';
import { WHOLE } from '@euphonos/engine';
import { Choice } from '../../../components/choice.js';
import { edited, shownTrack } from '../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';
import { useKeys } from '../../../shell/use-keys.js';
import { ChainsDialog } from '../../chains/chains-dialog.js';
import { Linked } from '../../chains/linked.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import { ClipSheet } from '../clips/clip-sheet.js';
import { ChainOwnerProvider } from './chain-owner.js';
import { AddTreatment } from './add-treatment.js';
import { ChainEffect } from './chain-effect.js';
import { DoneList } from './done-list.js';
import { useWholeEffects } from './use-whole-effects.js';
import { Picture } from '../../picture/picture.js';
import { CompareDialog } from '../../compare/compare-dialog.js';
import { useShownVersion, Versions, VersionShown } from './versions.js';
import { TreatmentCard } from './treatment-card.js';

/** The treatments of the track in their order, one open at a time; of its clip or of the whole, if these are asked for. */
export function ChainColumn({ of }: { readonly of?: 'whole' }) {
  const track = useApp(({ session, listening }) => shownTrack(session, listening))!;
  const version = useShownVersion();
  const dispatch = useAppDispatch();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const chosen = useApp(({ listening }) => listening.chosenClip);
  const also = useApp(({ listening }) => listening.alsoChosen);
  const [library, setLibrary] = useState(false);
  useKeys('q', () => setLibrary(true));
  const [comparing, setComparing] = useState(false);
  useKeys('shift_x', () => setComparing(true));
  const [wished, setWished] = useState<'track' | 'clip' | 'whole'>('track');
  const document = useApp(({ session }) => session?.history?.present)!;
  const clip = track.clips.find(({ id }) => id === chosen) ?? null;
  const many = document.tracks.length > 1 || document.chain.treatments.length > 0;
  const shown = of ?? (version !== null || (wished === 'clip' && !clip) || (wished === 'whole' && !many) ? 'track' : wished);
  const owner = useMemo(
    () => (shown === 'clip' ? { trackId: track.id, clipId: clip!.id } : { trackId: shown === 'whole' ? WHOLE : track.id }),
    [shown, track.id, clip],
  );
  const treatments = shown === 'clip' ? (clip!.chain?.treatments ?? []) : (shown === 'whole' ? document.chain : track.chain).treatments;
  const workbench = useWorkbench();
  const watched = shown === 'clip' ? clip!.id : null;
  useEffect(() => workbench.watchClip(watched), [workbench, watched]);
  useWholeEffects(document, shown === 'whole');
  const others = track.clips.filter(({ id, chain }) => also.includes(id) && chain !== null);
  const ids = treatments.map(({ id }) => id!);
  const onDragEnd = ({ active, over }: DragEndEvent): void => {
    if (over && over.id !== active.id)
      dispatch(edited({ type: 'move-treatment', ...owner, treatmentId: String(active.id), toIndex: ids.indexOf(String(over.id)) }));
  };
  return (
    <aside aria-label="Chain" className="flex w-[396px] shrink-0 flex-col border-l border-line bg-sheet max-[1100px]:w-[320px]">
      <div className="flex items-center justify-between px-4 pt-3 pb-2">
        <h2 className="m-0 text-[17px]">{of ? 'Whole' : 'Chain'}</h2>
        <span className="flex items-center gap-1">
          <HeadButton title="Two of them, equally loud, also blind (⇧X)" onClick={() => setComparing(true)}>
            compare
          </HeadButton>
          {comparing && <CompareDialog of={of ?? 'track'} onClose={() => setComparing(false)} />}
          <HeadButton title="Chains with names: keep this one, take another, compare (Q)" onClick={() => setLibrary(true)}>
            chains
          </HeadButton>
          <Versions />
          <DoneList />
        </span>
      </div>
      {library && (
        <ChainsDialog document={document} owner={owner} chain={{ treatments }} alsoClips={also} onClose={() => setLibrary(false)} />
      )}
      {track.chainLink !== null && shown === 'track' && <Linked track={track} document={document} />}
      {version && <VersionShown version={version} />}
      <div inert={version !== null} className={`min-h-0 grow overflow-y-auto px-4 ${version ? 'opacity-60' : ''}`}>
        {!of && <ClipSheet />}
        {!of && (clip || many) && (
          <div className="flex items-baseline gap-3 pb-1 text-[13px]">
            <span className="text-soft">Chain of</span>
            <Choice
              label="Chain of"
              value={shown}
              onChange={setWished}
              choices={[
                { value: 'track', title: 'the track' },
                ...(clip
                  ? [
                      {
                        value: 'clip' as const,
                        title: `this clip${clip.chain ? `, ${clip.chain.treatments.length}` : ''}`,
                        hint: 'Treats this clip alone, before the chain of the track',
                      },
                    ]
                  : []),
                ...(many
                  ? [
                      {
                        value: 'whole' as const,
                        title: `the whole${document.chain.treatments.length > 0 ? `, ${document.chain.treatments.length}` : ''}`,
                        hint: 'Treats the sum of all tracks; heard when they are heard together',
                      },
                    ]
                  : []),
              ]}
            />
          </div>
        )}
        {shown === 'clip' && (clip?.chain ?? others.length > 0) && also.length > 0 && (
          <button
            type="button"
            className="press mb-1.5 px-1.5! py-0! text-[12px]"
            title="The other clips that are chosen get the chain of this one in the place of their own"
            onClick={() =>
              dispatch(
                edited({
                  type: 'take-chain',
                  name: 'of a clip',
                  chain: { treatments },
                  trackIds: [track.id],
                  clipIds: [clip!.id, ...also],
                }),
              )
            }
          >
            {treatments.length === 0 ? 'None for all' : 'This one on all'} {also.length + 1} clips
          </button>
        )}
        <ChainOwnerProvider value={owner}>
          <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
            <SortableContext items={ids} strategy={verticalListSortingStrategy}>
              {treatments.map((settings) => (
                <TreatmentCard key={settings.id} track={track} settings={settings} />
              ))}
            </SortableContext>
          </DndContext>
          {treatments.length === 0 && (
            <p className="text-soft">
              {shown === 'clip'
                ? 'This clip has no treatment of its own. Add what it alone needs.'
                : shown === 'whole'
                  ? 'Nothing is done to the sum of the tracks yet.'
                  : 'The chain is empty: the result is the source. Add the first treatment.'}
            </p>
          )}
          <AddTreatment />
        </ChainOwnerProvider>
      </div>
      <Picture />
      {!of && <ChainEffect />}
    </aside>
  );
}

const HeadButton = ({ title, onClick, children }: { readonly title: string; readonly onClick: () => void; readonly children: string }) => (
  <button type="button" title={title} className="px-1 text-[12px] text-soft hover:text-ink" onClick={onClick}>
    {children}
  </button>
);
