import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { needsProfile, parametersOf, treatmentOf, type TreatmentSettings } from '@euphonos/dsp';
import { WHOLE, type Track } from '@euphonos/engine';
import { GripVertical } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { setMinus } from '../../../components/figures.js';
import { Switch } from '../../../components/switch.js';
import { changed } from '../../../store/listening-slice.js';
import { edited } from '../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';
import { useEffectWords } from './effect-line.js';
import { useChainOwner } from './chain-owner.js';
import { TreatmentBody } from './treatment-body.js';

interface Props {
  readonly track: Track;
  readonly settings: TreatmentSettings;
}

/** One treatment: a line with its settings, or open with its rulers. */
export function TreatmentCard({ track, settings }: Props) {
  const id = settings.id!;
  const definition = treatmentOf(settings.kind);
  const open = useApp(({ listening }) => listening.openTreatmentId === id);
  const dispatch = useAppDispatch();
  const owner = useChainOwner(track);
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id });
  const effect = useEffectWords(settings);
  const section = useRef<HTMLElement | null>(null);
  useEffect(() => {
    // What was opened is to be seen whole, as far as it fits.
    if (open) section.current?.scrollIntoView?.({ block: 'nearest' });
  }, [open]);
  const onWhole = owner.trackId === WHOLE;
  const noiseOfWhole = useApp(({ session }) => (session?.history?.present.wholeNoise.length ?? 0) > 0);
  // A clip's own chain weighs by the noise of its track, the whole by one of its own.
  const idle = needsProfile(settings) && !(onWhole ? noiseOfWhole : track.noise);
  return (
    <section
      ref={(element) => {
        setNodeRef(element);
        section.current = element;
      }}
      aria-label={definition.title}
      data-treatment={settings.kind}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`border-t bg-sheet ${open ? 'border-ink' : 'border-line'} ${isDragging ? 'relative z-10' : ''}`}
    >
      <div className="flex h-[40px] items-center gap-2">
        <button
          type="button"
          {...attributes}
          {...listeners}
          aria-label={`Move ${definition.title}`}
          title="Drag, or Space and arrows, to another place"
          className="cursor-grab touch-none text-soft"
        >
          <GripVertical size={14} />
        </button>
        <button
          type="button"
          aria-expanded={open}
          onClick={() => dispatch(changed({ openTreatmentId: open ? null : id }))}
          className="flex min-w-0 grow items-baseline gap-3 text-left"
        >
          <b className={`shrink-0 font-semibold ${settings.bypassed ? 'text-soft' : ''}`}>{definition.title}</b>
          <span className={`ml-auto truncate text-[13px] ${idle && !settings.bypassed ? 'text-removed' : 'text-soft'}`}>
            {idle && !settings.bypassed ? 'waits for a noise profile' : setMinus(definition.summary(parametersOf(settings)))}
            {effect && !idle && !open && <span className="text-result"> · {effect}</span>}
          </span>
        </button>
        <Switch
          label={`${definition.title} on`}
          on={!settings.bypassed}
          onChange={(on) => dispatch(edited({ type: 'bypass-treatment', ...owner, treatmentId: id, bypassed: !on }))}
        />
      </div>
      {open && <TreatmentBody track={track} settings={settings} />}
    </section>
  );
}
