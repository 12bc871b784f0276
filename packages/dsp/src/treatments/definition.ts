import type { Processor, ProcessorContext } from '../processor.js';

/** Units that a parameter can have, as they are shown. */
export type ParameterUnit = 'Hz' | 'dB' | 'dBFS' | 'ms' | 'dB/oct' | 'count';

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

/** One number for each parameter. */
export type ParameterValues<S extends ParameterSpecs = ParameterSpecs> = { readonly [K in keyof S]: number };

/** A processor whose parameters can be moved while sound runs through it. */
export interface TreatmentProcessor<S extends ParameterSpecs = ParameterSpecs> extends Processor {
  /**
   * Moves to new parameters without a click. Returns false, and changes nothing, when that needs a new
   * processor (another number of filter sections, say); the caller then crossfades to one.
   */
  setParameters(values: ParameterValues<S>): boolean;
}

/** A treatment: one folder, one line in the registry. */
export interface TreatmentDefinition<K extends string = string, S extends ParameterSpecs = ParameterSpecs> {
  readonly kind: K;
  readonly title: string;
  readonly sentence: string;
  readonly parameters: S;
  /** True when it does nothing without a noise profile. */
  readonly needsNoiseProfile: boolean;
  /** Rules between parameters: a sentence when one is broken. */
  readonly conflict?: (values: ParameterValues<S>) => string | undefined;
  /** The nearest values that keep the rules, given the name of the parameter just moved. */
  readonly reconcile?: (values: ParameterValues<S>, moved: keyof S) => ParameterValues<S>;
  /** The settings in a few words, for the folded line. */
  readonly summary: (values: ParameterValues<S>) => string;
  readonly create: (context: ProcessorContext, values: ParameterValues<S>) => TreatmentProcessor<S>;
}

/** Infers the kind and the parameter names from the literal. */
export const defineTreatment = <const K extends string, const S extends ParameterSpecs>(
  definition: TreatmentDefinition<K, S>,
): TreatmentDefinition<K, S> => definition;

/** The default of every parameter. */
export const defaultValues = <S extends ParameterSpecs>(specs: S): ParameterValues<S> =>
  Object.fromEntries(Object.entries(specs).map(([name, spec]) => [name, spec.default])) as ParameterValues<S>;
