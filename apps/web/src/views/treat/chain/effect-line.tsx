import { inBackground, parametersOf, treatmentOf, type TreatmentSettings } from '@euphonos/dsp';
import { Ear } from 'lucide-react';
import { formatNumber } from '../../../components/figures.js';
import { changed } from '../../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';
import { useSyncExternalStore } from 'react';
import { useEffectOf, useWorkbench } from '../../../workbench/workbench-context.js';

const change = (db: number | null): string =>
  db === null ? '–' : `${db > 0.05 ? '+' : ''}${formatNumber(Math.abs(db) < 0.05 ? 0 : db, 1)} dB`;

/** What counts as mended, by kind. */
const COUNTED: Readonly<Record<string, readonly [string, string]>> = {
  clicks: ['click mended', 'clicks mended'],
  clipping: ['stretch rebuilt', 'stretches rebuilt'],
  plosives: ['burst lowered', 'bursts lowered'],
  sibilance: ['s lowered', 's lowered'],
  pauses: ['pause lowered', 'pauses lowered'],
  breaths: ['breath lowered', 'breaths lowered'],
  limiter: ['peak held', 'peaks held'],
};

/** The effect of a treatment in one line, for the card when it is folded. */
export function useEffectWords(settings: TreatmentSettings): string | null {
  const effect = useEffectOf(settings.id!);
  if (!effect || settings.bypassed) return null;
  const counted = COUNTED[settings.kind];
  if (counted && effect.events.length === 0) return null;
  if (counted) return `${effect.events.length} ${effect.events.length === 1 ? counted[0] : counted[1]}`;
  if (effect.dynamics) return effect.dynamics.share === 0 ? 'no word moved' : `words ${change(effect.dynamics.typicalDb)}`;
  return effect.gapsDb === null ? null : `gaps ${change(effect.gapsDb)}`;
}

/** How many, and for rebuilt peaks by how much the highest now stands above where it was cut. */
function countOf(events: readonly { readonly amountDb: number }[], kind: string): string {
  const most = Math.max(0, ...events.map(({ amountDb }) => amountDb));
  return kind === 'clipping' && events.length > 0 ? `${events.length}, +${formatNumber(most, 1)} dB` : String(events.length);
}

interface Props {
  readonly settings: TreatmentSettings;
  /** Whose chain it is in. */
  readonly owner?: 'track' | 'clip' | 'whole';
}

/** What a treatment changes now, what it costs the voice, and, of the track's chain, a key to hear what it takes out, alone. */
export function EffectLine({ settings, owner = 'track' }: Props) {
  const id = settings.id!;
  const effect = useEffectOf(id);
  const aside = useApp(({ listening }) => listening.aside);
  const dispatch = useAppDispatch();
  const workbench = useWorkbench();
  const measuredIn = useSyncExternalStore(workbench.subscribe, () => workbench.figuresOf);
  const looping = useApp(({ listening }) => listening.looping);
  const of = owner === 'clip' ? 'this clip' : owner === 'whole' ? (looping ? 'the mix, loop' : 'the mix') : measuredIn;
  const definition = treatmentOf(settings.kind);
  const values = parametersOf(settings);
  const background = inBackground(definition, values);
  const known = useSyncExternalStore(
    (call) => workbench.player.subscribe(call),
    () => {
      const { knownFrames } = workbench.player;
      return background && knownFrames !== Infinity ? Math.round((100 * knownFrames) / Math.max(1, workbench.lengthFrames)) : null;
    },
  );
  const heard = aside?.treatmentId === id && aside.bandHz === undefined;
  const counted = COUNTED[settings.kind];
  // What is left to an edit of the clips does nothing here.
  if (definition.idle?.(values)) return null;
  return (
    <div className="mb-1.5 border-y border-faint py-1.5 text-[12px]" data-effect-of={settings.kind}>
      <div className="flex items-center gap-3">
        <span
          className="grid grow grid-cols-3 gap-2"
          title={`Measured in: ${of}${owner === 'track' ? '' : ', up to its first minute'}. Change of the level of the gaps, of the words, and the level of what is taken out of the words against them (speech loss: −40 dB is next to nothing)`}
        >
          <Figure title={of === 'overall' ? 'gaps' : `gaps · ${of}`} value={settings.bypassed || !effect ? '–' : change(effect.gapsDb)} />
          {counted ? (
            <Figure title={counted[1]} value={settings.bypassed || !effect ? '–' : countOf(effect.events, settings.kind)} />
          ) : (
            <Figure title="words" value={settings.bypassed || !effect ? '–' : change(effect.wordsDb)} />
          )}
          <Figure
            title="speech loss"
            value={
              settings.bypassed || !effect || effect.speechLossDb === null
                ? '–'
                : effect.speechLossDb < -90
                  ? 'none'
                  : `${formatNumber(effect.speechLossDb, 0)} dB`
            }
          />
        </span>
        {/* By itself is heard what the chain of the track takes out. */}
        <button
          type="button"
          hidden={owner !== 'track'}
          aria-pressed={heard}
          disabled={settings.bypassed}
          title="Hear what this treatment takes out, alone (S)"
          onClick={() => dispatch(changed({ aside: heard ? null : { treatmentId: id } }))}
          className={`press flex shrink-0 items-center gap-1 py-0.5! ${heard ? 'border-removed! bg-removed! text-sheet!' : ''}`}
        >
          <Ear size={13} /> alone
        </button>
      </div>
      {background && owner === 'track' && (
        <p className="m-0 pt-1 text-soft">
          Rendered in the background for what plays; a change is heard as soon as it is ready.
          {known !== null && ` ${known} % of the track listened through.`}
        </p>
      )}
    </div>
  );
}

const Figure = ({ title, value }: { readonly title: string; readonly value: string }) => (
  <span className="leading-tight">
    <b className="block whitespace-nowrap text-[14px] font-semibold">{value}</b>
    <span className="text-soft">{title}</span>
  </span>
);
