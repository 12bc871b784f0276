import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { useMemo, useState } from 'react';
import { Choice } from '../../../components/choice.js';
import { edited, shownTrack } from '../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';
import { ClipSheet } from '../clips/clip-sheet.js';
import { ChainOwnerProvider } from './chain-owner.js';
import { AddTreatment } from './add-treatment.js';
import { ChainEffect } from './chain-effect.js';
import { DoneList } from './done-list.js';
import { useShownVersion, Versions, VersionShown } from './versions.js';
import { TreatmentCard } from './treatment-card.js';

/** The treatments of the track in their order, one open at a time. */
export function ChainColumn() {
  const track = useApp(({ session, listening }) => shownTrack(session, listening.shownVersion))!;
  const version = useShownVersion();
  const dispatch = useAppDispatch();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const chosen = useApp(({ listening }) => listening.chosenClip);
  const [ofClip, setOfClip] = useState(false);
  const clip = track.clips.find(({ id }) => id === chosen) ?? null;
  const showsClip = clip !== null && ofClip && version === null;
  const owner = useMemo(() => (showsClip ? { trackId: track.id, clipId: clip.id } : { trackId: track.id }), [showsClip, track.id, clip]);
  const treatments = showsClip ? (clip.chain?.treatments ?? []) : track.chain.treatments;
  const ids = treatments.map(({ id }) => id!);
  const onDragEnd = ({ active, over }: DragEndEvent): void => {
    if (over && over.id !== active.id)
      dispatch(edited({ type: 'move-treatment', ...owner, treatmentId: String(active.id), toIndex: ids.indexOf(String(over.id)) }));
  };
  return (
    <aside aria-label="Chain" className="flex w-[396px] shrink-0 flex-col border-l border-line bg-sheet max-[1100px]:w-[320px]">
      <div className="flex items-center justify-between px-4 pt-3 pb-2">
        <h2 className="m-0 text-[17px]">Chain</h2>
        <span className="flex items-center gap-1">
          <Versions />
          <DoneList />
        </span>
      </div>
      {version && <VersionShown version={version} />}
      <div inert={version !== null} className={`min-h-0 grow overflow-y-auto px-4 ${version ? 'opacity-60' : ''}`}>
        <ClipSheet />
        {clip && (
          <div className="flex items-baseline gap-3 pb-1 text-[13px]">
            <span className="text-soft">Chain of</span>
            <Choice
              label="Chain of" value={showsClip ? 'clip' : 'track'} onChange={(of) => setOfClip(of === 'clip')}
              choices={[{ value: 'track', title: 'the track' }, { value: 'clip', title: `this clip${clip.chain ? `, ${clip.chain.treatments.length}` : ''}`, hint: 'Treats this clip alone, before the chain of the track' }]}
            />
          </div>
        )}
        <ChainOwnerProvider value={owner}>
        <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
          <SortableContext items={ids} strategy={verticalListSortingStrategy}>
            {treatments.map((settings) => (
              <TreatmentCard key={settings.id} track={track} settings={settings} />
            ))}
          </SortableContext>
        </DndContext>
        {treatments.length === 0 && <p className="text-soft">{showsClip ? 'This clip has no treatment of its own. Add what it alone needs.' : 'The chain is empty: the result is the source. Add the first treatment.'}</p>}
        <AddTreatment />
        </ChainOwnerProvider>
      </div>
      <ChainEffect />
    </aside>
  );
}
