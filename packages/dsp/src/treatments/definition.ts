import type { Processor, ProcessorContext } from '../processor.js';

/** Units that a parameter can have, as they are shown. */
export type ParameterUnit = 'Hz' | 'dB' | 'dBFS' | 'dBTP' | 'LUFS' | 'LU' | 'ms' | 's' | 'dB/oct' | 'count' | 'Q' | ':1' | '%';

/** One parameter, stated once: controls, validation, command-line help, reports and docs are made from it. */
export interface ParameterSpec {
  readonly title: string;
  readonly unit: ParameterUnit;
  readonly min: number;
  readonly max: number;
  readonly default: number;
  /** Values are multiples of it, counted from min. */
  readonly step: number;
  /** The band that is usual in practice: common practice, no source. */
  readonly practice: readonly [number, number];
  /** How a ruler spaces the range. */
  readonly scale: 'linear' | 'log';
  /** Values that have a key of their own. */
  readonly presets?: readonly number[];
  /** Shown at once, or only among the finer settings. */
  readonly finer?: boolean;
  readonly sentence: string;
}

/** The parameter names of a treatment, each with its spec. */
export type ParameterSpecs = Readonly<Record<string, ParameterSpec>>;

/** A setting that is one of a few words. */
export interface ChoiceSpec {
  readonly title: string;
  readonly default: string;
  /** Shown at once, or only among the finer settings. */
  readonly finer?: boolean;
  /** Options that are `prepared` need a chain that can be loaded and rendered beforehand: that of a track. */
  readonly options: readonly { readonly value: string; readonly title: string; readonly sentence: string; readonly prepared?: boolean }[];
  readonly sentence: string;
}

/** One row of a list: a number and a word for each of its fields. */
export type ListRow = Readonly<Record<string, number | string>>;

/** A setting that is a list: of rows with fields, or of whole numbers. */
export interface ListSpec {
  readonly title: string;
  readonly most: number;
  readonly sentence: string;
  /** Fields of a row; a field left out takes its default. */
  readonly fields?: ParameterSpecs;
  readonly choices?: Readonly<Record<string, ChoiceSpec>>;
  /** Its times are those of the session, not of the recording: they stay where they are when clips move. */
  readonly ofSession?: boolean;
  /** For a list of whole numbers: their range. */
  readonly numbers?: { readonly min: number; readonly max: number };
  /** A rule within a row: a sentence when it is broken. */
  readonly conflict?: (row: ListRow) => string | undefined;
}

export type ListValue = readonly number[] | readonly ListRow[];

/** What one setting can hold. */
export type SettingValue = number | string | ListValue;

/** One number for each parameter, and whatever the choices and lists hold, by name. */
export type ParameterValues<S extends ParameterSpecs = ParameterSpecs> = { readonly [K in keyof S]: number } & {
  readonly [setting: string]: unknown;
};

/** A processor whose parameters can be moved while sound runs through it. */
export interface TreatmentProcessor<S extends ParameterSpecs = ParameterSpecs> extends Processor {
  /**
   * Moves to new parameters without a click. Returns false, and changes nothing, when that needs a new
   * processor (another number of filter sections, say); the caller then crossfades to one.
   */
  setParameters(values: ParameterValues<S>): boolean;
  /** What it does to the level at this moment, dB: for meters of what is heard live. */
  readonly nowDb?: number;
}

/** What a stage needs, to go on somewhere as if it had heard all that came before. */
export interface StageFacts {
  readonly latencyFrames: number;
  /** It remembers more than LEAD_SECONDS (`Processor.remember`). */
  readonly remembers: boolean;
}

export const stageFacts = ({ latencyFrames, remember }: Processor): StageFacts => ({ latencyFrames, remembers: remember !== undefined });

/** A treatment: one folder, one line in the registry. */
export interface TreatmentDefinition<K extends string = string, S extends ParameterSpecs = ParameterSpecs> {
  readonly kind: K;
  readonly title: string;
  readonly sentence: string;
  readonly parameters: S;
  readonly choices?: Readonly<Record<string, ChoiceSpec>>;
  /** What a setting was before it could be chosen: for chains that were stored then. */
  readonly formerly?: Readonly<Record<string, SettingValue>>;
  /** Lists are empty by default. */
  readonly lists?: Readonly<Record<string, ListSpec>>;
  /**
   * True when it cannot run in the audio clock: too long a look-ahead, too much work at once, or times of the
   * recording among its settings. It is rendered in the background and switches in when it is ready.
   */
  readonly background?: boolean | ((values: ParameterValues<S>) => boolean);
  /** True when its processors remember more than LEAD_SECONDS of what they heard (`Processor.remember`). */
  readonly remembers?: boolean;
  /** True when what comes out can be louder than full scale by design: a render then lowers the whole. */
  readonly mayRaise?: boolean;
  /** True when it weighs by a noise profile, and does nothing without one. */
  readonly needsNoiseProfile: boolean;
  /** With these settings it does without one all the same. */
  readonly worksWithoutProfile?: (values: ParameterValues<S>) => boolean;
  /** With these settings nothing is done to what is heard. */
  readonly idle?: (values: ParameterValues<S>) => boolean;
  /** Names of what counts for nothing with these settings; not shown. */
  readonly idleSettings?: (values: ParameterValues<S>) => readonly string[];
  /** Rules between parameters: a sentence when one is broken. */
  readonly conflict?: (values: ParameterValues<S>) => string | undefined;
  /** The nearest values that keep the rules, given the name of the parameter just moved. */
  readonly reconcile?: (values: ParameterValues<S>, moved: keyof S) => ParameterValues<S>;
  /** The settings in a few words, for the folded line. */
  readonly summary: (values: ParameterValues<S>) => string;
  readonly create: (context: ProcessorContext, values: ParameterValues<S>) => TreatmentProcessor<S>;
  /**
   * For filters that turn phase beside what they take: what turns it alike and takes nothing. The source is compared through it.
   * Its latency may be another than the treatment's.
   */
  readonly turn?: (context: ProcessorContext, values: ParameterValues<S>) => TreatmentProcessor<S>;
  /** On a microphone that is heard at once, where it cannot be as it is: late by so much, or in need of what comes later. */
  readonly live?: LiveForm<S>;
}

/** What a treatment is on a microphone that is heard at once. */
export interface LiveForm<S extends ParameterSpecs = ParameterSpecs> {
  /** Makes it, with as little delay as can be; absent where it cannot be heard live at all. */
  readonly create?: (context: ProcessorContext, values: ParameterValues<S>) => TreatmentProcessor<S>;
  /** What it is given of the settings, then and whenever they move; all of them as they are where it is left out. */
  readonly values?: (values: ParameterValues<S>) => Readonly<Record<string, unknown>>;
  /** In what it differs from what the recording gets, for whoever listens. */
  readonly note: string;
}

/** Infers the kind and the parameter names from the literal. */
export const defineTreatment = <const K extends string, const S extends ParameterSpecs>(
  definition: TreatmentDefinition<K, S>,
): TreatmentDefinition<K, S> => definition;

/** Whether a treatment with these settings is rendered in the background. */
export const inBackground = <S extends ParameterSpecs>(
  { background }: TreatmentDefinition<string, S>,
  values: ParameterValues<S>,
): boolean => (typeof background === 'function' ? background(values) : background === true);

/** The names of everything that can be set: parameters, choices, lists. */
export const settingNames = ({ parameters, choices, lists }: Pick<TreatmentDefinition, 'parameters' | 'choices' | 'lists'>): string[] => [
  ...Object.keys(parameters),
  ...Object.keys(choices ?? {}),
  ...Object.keys(lists ?? {}),
];

/** The default of every parameter, choice and list. */
export function defaultValues({
  parameters,
  choices,
  lists,
}: Pick<TreatmentDefinition, 'parameters' | 'choices' | 'lists'>): Record<string, SettingValue> {
  const of = (specs: Readonly<Record<string, { readonly default: number | string }>> = {}): [string, SettingValue][] =>
    Object.entries(specs).map(([name, spec]) => [name, spec.default]);
  return Object.fromEntries([
    ...of(parameters),
    ...of(choices),
    ...Object.keys(lists ?? {}).map((name): [string, SettingValue] => [name, []]),
  ]);
}
