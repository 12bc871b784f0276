import { parametersOf, treatmentOf, type LiveNote, type TreatmentSettings } from '@euphonos/dsp';
import { setMinus } from '../../components/figures.js';
import { ParameterRuler } from '../../components/parameter-ruler.js';
import { Switch } from '../../components/switch.js';
import { useDesk, useDeskState } from './use-desk.js';

/** What is set of each here; the rest is set in Treat. */
const SHOWN: Readonly<Record<string, readonly string[]>> = {
  'high-pass': ['cutoffHz'],
  'noise-reduction': ['reductionDb'],
  gate: ['openDb', 'closeDb', 'rangeDb'],
  compressor: ['thresholdDb', 'makeUpDb'],
  limiter: ['ceilingDbtp'],
};

/** A treatment of the live chain: on or off, what it is set to, and how it differs while it is heard live. */
export function LiveTreatment({ settings, note }: { readonly settings: TreatmentSettings; readonly note: LiveNote | null }) {
  const desk = useDesk();
  const thresholds = useDeskState((state) => state.check?.thresholds ?? null);
  const { kind, bypassed, id } = settings;
  const definition = treatmentOf(kind);
  const set = (name: string, value: number): void => {
    const values = { ...parametersOf(settings), [name]: value };
    desk.setTreatment(id!, { [name]: value, ...definition.reconcile?.(values as never, name as never) });
  };
  const measured: Readonly<Record<string, { readonly value: number; readonly words: string } | undefined>> =
    kind === 'gate' && thresholds
      ? {
          openDb: { value: thresholds.softestDb, words: 'the softest beginning of a word' },
          closeDb: { value: thresholds.usualDb ?? thresholds.floorDb, words: 'silence and usual noise' },
        }
      : {};
  return (
    <section data-treatment={kind} className="border-t border-line py-1.5">
      <div className="flex items-center gap-2.5">
        <Switch on={!bypassed} label={definition.title} onChange={(on) => desk.setTreatment(id!, { bypassed: !on })} />
        <b className="font-semibold">{definition.title}</b>
        <span className="min-w-0 grow truncate text-right text-[12.5px] text-soft">
          {setMinus(definition.summary(parametersOf(settings)))}
        </span>
      </div>
      {!bypassed &&
        SHOWN[kind]?.map((name) => (
          <ParameterRuler
            key={name}
            spec={definition.parameters[name]!}
            value={settings[name] as number}
            measured={measured[name]}
            onChange={(value) => set(name, value)}
          />
        ))}
      {note && !bypassed && (
        <p className="m-0 text-[12px] leading-snug text-soft">
          {note.heard ? 'Live: ' : 'Not live. '}
          {note.note}
        </p>
      )}
    </section>
  );
}
