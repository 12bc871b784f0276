import { TRACK_GAIN_DB, type Track } from '@euphonos/engine';
import { Headphones, Link2, Lock, LockOpen, Volume2, VolumeX } from 'lucide-react';
import type { ReactNode } from 'react';
import { PanLine } from '../../../components/pan-line.js';
import { edited } from '../../../store/session-slice.js';
import { useAppDispatch } from '../../../store/store.js';

interface Props {
  readonly track: Track;
  readonly chosen: boolean;
  readonly solo: boolean;
  /** Whether it is in what is heard. */
  readonly heard: boolean;
  /** Its name is being typed. */
  readonly naming: boolean;
  readonly onNaming: (naming: boolean) => void;
  readonly onChoose: () => void;
  readonly onSolo: () => void;
}

/** Who it is, and how it is among the others: level, place, heard or not. */
export function LaneHead({ track, chosen, solo, heard, naming, onNaming, onChoose, onSolo }: Props) {
  const dispatch = useAppDispatch();
  const { id, name, role, gainDb, pan, muted, noiseHeld, noise, chainLink } = track;
  const set = (change: { gainDb?: number; pan?: number; muted?: boolean; name?: string; role?: Track['role'] }): void => {
    dispatch(edited({ type: 'set-track', trackId: id, ...change }));
  };
  return (
    <div className={`flex w-[312px] shrink-0 items-center gap-1 border-r border-line pr-1.5 ${chosen ? 'bg-sheet' : ''}`}>
      <i aria-hidden className={`h-full w-[3px] shrink-0 ${chosen ? 'bg-ink' : ''}`} />
      {naming ? (
        <input
          autoFocus
          aria-label={`Name of ${name}`}
          maxLength={120}
          className="min-w-0 grow rounded-sheet border border-line bg-sheet px-1"
          defaultValue={name}
          onBlur={({ target }) => {
            onNaming(false);
            if (target.value.trim() !== '' && target.value !== name) set({ name: target.value });
          }}
          onKeyDown={({ key, currentTarget }) => {
            if (key === 'Escape') currentTarget.value = name;
            if (key === 'Escape' || key === 'Enter') currentTarget.blur();
          }}
        />
      ) : (
        <button
          type="button"
          aria-pressed={chosen}
          title={`${name}${noise ? ` · ${noise.kind === 'kept' ? noise.name : 'profiled'}` : ''} · double click, or F2, to name it`}
          className={`min-w-0 grow truncate px-1 text-left ${chosen ? 'font-semibold' : ''} ${heard ? '' : 'text-soft line-through'}`}
          onClick={onChoose}
          onDoubleClick={() => onNaming(true)}
        >
          {name}
        </button>
      )}
      {chainLink !== null && <Link2 size={12} className="shrink-0 text-soft" aria-label="Its chain is linked" />}
      <button
        type="button"
        className="w-[42px] shrink-0 text-right text-soft hover:text-ink"
        aria-label={`${name} is ${role === 'bed' ? 'a bed' : 'speech'}`}
        title={
          role === 'bed'
            ? 'A bed: music or atmosphere; its talk is not marked, and it is not profiled with the others. Press for speech'
            : 'Speech. Press for a bed: music or atmosphere'
        }
        onClick={() => set({ role: role === 'bed' ? 'speech' : 'bed' })}
      >
        {role}
      </button>
      <Toggle
        on={noiseHeld}
        label={`Hold the noise profile of ${name}`}
        title={noiseHeld ? 'Held: it keeps its profile when all tracks are profiled' : 'Hold its profile when all tracks are profiled'}
        onPress={() => dispatch(edited({ type: 'hold-noise', trackId: id, held: !noiseHeld }))}
      >
        {noiseHeld ? <Lock size={12} /> : <LockOpen size={12} className={noise ? 'text-removed' : ''} />}
      </Toggle>
      <Toggle
        on={solo}
        label={`Solo ${name}`}
        title="Solo: only these are heard (U); held down, for as long. A render is not changed"
        onPress={onSolo}
      >
        <Headphones size={13} />
      </Toggle>
      <Toggle
        on={muted}
        label={`Mute ${name}`}
        title={muted ? 'Muted: not in the mix (I)' : 'Leave it out of the mix (I)'}
        onPress={() => set({ muted: !muted })}
      >
        {muted ? <VolumeX size={13} /> : <Volume2 size={13} />}
      </Toggle>
      <input
        type="number"
        aria-label={`Level of ${name}, dB`}
        title="Level among the others, dB"
        className="w-[48px] shrink-0 rounded-sheet border border-transparent bg-transparent px-0.5 text-right hover:border-line focus:border-line"
        min={TRACK_GAIN_DB.min}
        max={TRACK_GAIN_DB.max}
        step={0.5}
        value={gainDb}
        onChange={({ target }) => target.value !== '' && set({ gainDb: Number(target.value) })}
      />
      <PanLine label={`Place of ${name}`} value={pan} onChange={(next) => set({ pan: next })} />
    </div>
  );
}

interface ToggleProps {
  readonly on: boolean;
  readonly label: string;
  readonly title: string;
  readonly onPress: () => void;
  readonly children: ReactNode;
}

const Toggle = ({ on, label, title, onPress, children }: ToggleProps) => (
  <button
    type="button"
    aria-pressed={on}
    aria-label={label}
    title={title}
    className={`grid size-[20px] shrink-0 place-items-center rounded-sheet ${on ? 'bg-ink text-sheet' : 'text-soft hover:text-ink'}`}
    onClick={onPress}
  >
    {children}
  </button>
);
