import {
  needsProfile,
  parametersOf,
  treatmentOf,
  type ChoiceSpec,
  type ParameterSpec,
  type SettingValue,
  type TreatmentSettings,
} from '@euphonos/dsp';
import { WHOLE, type Track } from '@euphonos/engine';
import { RotateCcw, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { formatDb } from '../../../components/figures.js';
import { ParameterRuler } from '../../../components/parameter-ruler.js';
import { changed } from '../../../store/listening-slice.js';
import { edited, recordingFacts } from '../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';
import { Choice } from '../../../components/choice.js';
import { useChainOwner } from './chain-owner.js';
import { EffectLine } from './effect-line.js';
import { HoldAlone } from './hold-alone.js';
import { NoiseSource } from './noise-source.js';
import { WholeNoise } from './whole-noise.js';
import { panels } from './panels/panels.js';
import { useFoundPauses } from './panels/use-found-pauses.js';

interface Props {
  readonly track: Track;
  readonly settings: TreatmentSettings;
}

/** Values that are offsets from something carry their sign. */
const SIGNED = new Set(['thresholdDb']);
/** Levels of the sound itself, for which the measured floor is worth a mark. */
const AGAINST_FLOOR = new Set(['openDb', 'closeDb', 'openDbfs', 'closeDbfs']);

/** The controls of a treatment, made from what it states of its parameters. */
export function TreatmentBody({ track, settings }: Props) {
  const dispatch = useAppDispatch();
  const [finer, setFiner] = useState(false);
  const floorDbfs = useApp(({ session }) => (session && recordingFacts(session, track)[0]?.figures.noiseFloorDbfs) ?? null);
  const { parameters, choices = {}, title, sentence, idleSettings } = treatmentOf(settings.kind);
  const Panel = panels[settings.kind];
  const owner = useChainOwner(track);
  const of = { ...owner, treatmentId: settings.id! };
  // In the chain of the track all of it can be measured and prepared; in those of a clip and of the whole what each treatment does.
  const measured = owner.clipId === undefined && owner.trackId === track.id;
  // What counts for nothing as it is set would only pretend to be a control.
  const idle = idleSettings?.(parametersOf(settings)) ?? [];
  const all = Object.entries(parameters).filter(([name]) => !idle.includes(name));
  const shown = all.filter(([, spec]) => finer || !spec.finer);
  const hasFiner = [...all.map(([, spec]) => spec), ...Object.values(choices)].some((spec) => spec.finer);
  const shownChoices = Object.entries(choices).filter(([, spec]) => finer || !spec.finer);
  // What must be prepared cannot be on a clip or on the whole, where it would only pretend.
  const offered = ({ options }: ChoiceSpec): ChoiceSpec['options'] => options.filter(({ prepared }) => measured || prepared !== true);
  const derived = useFoundPauses(settings);
  const set = (name: string, value: SettingValue): void => {
    const more = derived(name, value);
    if (more) dispatch(edited({ type: 'set-parameters', ...of, values: { [name]: value, ...more } }));
    else dispatch(edited({ type: 'set-parameter', ...of, name, value }));
  };
  return (
    <div className={`pb-3 ${settings.bypassed ? 'opacity-70' : ''}`}>
      <p className="m-0 mb-1 text-[12px] text-soft">{sentence}</p>
      <EffectLine settings={settings} owner={owner.clipId !== undefined ? 'clip' : owner.trackId === track.id ? 'track' : 'whole'} />
      {needsProfile(settings) && (owner.trackId === WHOLE ? <WholeNoise /> : <NoiseSource track={track} />)}
      {Panel && settings.kind !== 'clicks' && (measured || settings.kind !== 'noise-reduction') && (
        <Panel track={track} settings={settings} set={set} />
      )}
      {shownChoices.map(([name, spec]) => (
        <div key={name} className="flex items-baseline gap-3 py-1 text-[13px]" title={spec.sentence}>
          <span className="w-[92px] shrink-0">{spec.title}</span>
          <Choice
            label={spec.title}
            value={offered(spec).some(({ value }) => value === settings[name]) ? (settings[name] as string) : spec.default}
            choices={offered(spec).map(({ value, title: word, sentence: hint }) => ({ value, title: word, hint }))}
            onChange={(value) => set(name, value)}
          />
        </div>
      ))}
      {shown.map(([name, spec]) => (
        <div key={name}>
          <ParameterRuler
            spec={spec}
            value={settings[name] as number}
            signed={SIGNED.has(name)}
            measured={
              AGAINST_FLOOR.has(name) && floorDbfs !== null
                ? { value: floorDbfs, words: `Noise floor of the recording: ${formatDb(floorDbfs, 'dBFS')}` }
                : undefined
            }
            onChange={(value) => set(name, value)}
          />
          {name === 'cutoffHz' && measured && <HoldAlone settings={settings} />}
          {spec.presets && <Presets spec={spec} value={settings[name] as number} onChoose={(value) => set(name, value)} />}
        </div>
      ))}
      {Panel && settings.kind === 'clicks' && <Panel track={track} settings={settings} set={set} />}
      <div className="mt-2 flex items-center gap-4 text-[12px] text-soft">
        {hasFiner && (
          <button type="button" aria-expanded={finer} className="hover:text-ink" onClick={() => setFiner(!finer)}>
            {finer ? 'Fewer' : 'Finer settings'}
          </button>
        )}
        <button
          type="button"
          className="ml-auto flex items-center gap-1 hover:text-ink"
          onClick={() => dispatch(edited({ type: 'reset-treatment', ...of }))}
        >
          <RotateCcw size={12} /> Reset
        </button>
        <button
          type="button"
          aria-label={`Remove ${title}`}
          className="flex items-center gap-1 hover:text-removed"
          onClick={() => {
            dispatch(changed({ openTreatmentId: null, aside: null }));
            dispatch(edited({ type: 'remove-treatment', ...of }));
          }}
        >
          <Trash2 size={12} /> Remove
        </button>
      </div>
    </div>
  );
}

function Presets({
  spec,
  value,
  onChoose,
}: {
  readonly spec: ParameterSpec;
  readonly value: number;
  readonly onChoose: (value: number) => void;
}) {
  return (
    <div className="mb-1 flex gap-2 pl-[104px] text-[12px]">
      {spec.presets!.map((preset) => (
        <button
          key={preset}
          type="button"
          aria-pressed={value === preset}
          className={`press py-0! ${value === preset ? 'border-ink! font-semibold' : ''}`}
          onClick={() => onChoose(preset)}
        >
          {preset} {spec.unit} <span className="key">{String(preset)[0]}</span>
        </button>
      ))}
    </div>
  );
}
