import { GlidingFilter } from '../../filters/gliding-filter.js';
import { PhaseFilter } from '../../filters/phase-filter.js';
import { notchTurn } from '../../filters/phase-turn.js';
import { bandPassSection, bellSection, lowPassSection, notchSection, shelfSection, type Section } from '../../filters/sections.js';
import type { ProcessorContext } from '../../processor.js';
import {
  defineTreatment,
  type ChoiceSpec,
  type ListRow,
  type ListSpec,
  type ParameterValues,
  type TreatmentProcessor,
} from '../definition.js';

/** One band of the tone treatment. */
export interface ToneBand {
  readonly shape: 'low-shelf' | 'bell' | 'high-shelf' | 'notch' | 'low-pass' | 'band-pass';
  readonly frequencyHz: number;
  readonly gainDb: number;
  readonly q: number;
}

const parameters = {} as const;

const lists: { readonly bands: ListSpec & { readonly choices: Readonly<Record<'shape', ChoiceSpec>> } } = {
  bands: {
    title: 'Bands',
    most: 16,
    sentence: 'Any number of shelves, bells, notches and passes; each one moves the tone where it stands.',
    choices: {
      shape: {
        title: 'Shape',
        default: 'bell',
        sentence: 'What the band does around its frequency.',
        options: [
          { value: 'low-shelf', title: 'Low shelf', sentence: 'Raises or lowers everything below: against boom.' },
          { value: 'bell', title: 'Bell', sentence: 'Raises or lowers around its frequency.' },
          { value: 'high-shelf', title: 'High shelf', sentence: 'Raises or lowers everything above: more or less air.' },
          { value: 'notch', title: 'Notch', sentence: 'Takes out a narrow line.' },
          { value: 'low-pass', title: 'Low-pass', sentence: 'Takes out what lies above.' },
          { value: 'band-pass', title: 'Band-pass', sentence: 'Leaves only what lies around: for listening.' },
        ],
      },
    },
    fields: {
      frequencyHz: {
        title: 'Frequency',
        unit: 'Hz',
        min: 20,
        max: 20000,
        default: 1000,
        step: 1,
        practice: [100, 8000],
        scale: 'log',
        sentence: 'Where the band stands.',
      },
      gainDb: {
        title: 'Gain',
        unit: 'dB',
        min: -24,
        max: 24,
        default: 0,
        step: 0.1,
        practice: [-6, 3],
        scale: 'linear',
        sentence: 'How much it raises or lowers. Notch and passes have none.',
      },
      q: {
        title: 'Q',
        unit: 'Q',
        min: 0.1,
        max: 40,
        default: 0.9,
        step: 0.01,
        practice: [0.5, 2],
        scale: 'log',
        sentence: 'Frequency over width: small is wide and gentle, large is narrow.',
      },
    },
  },
};

/** Does nothing: for a band above what this sample rate holds. */
const PASS: Section = [1, 0, 0, 0, 0];

/** The section of one band, RBJ Audio EQ Cookbook. */
export function toneSection({ shape, frequencyHz, gainDb, q }: ToneBand, sampleRateHz: number): Section {
  if (frequencyHz >= 0.49 * sampleRateHz) return PASS;
  switch (shape) {
    case 'low-shelf':
      return shelfSection('low', frequencyHz, gainDb, q, sampleRateHz);
    case 'high-shelf':
      return shelfSection('high', frequencyHz, gainDb, q, sampleRateHz);
    case 'bell':
      return bellSection(frequencyHz, gainDb, q, sampleRateHz);
    case 'notch':
      return notchSection(frequencyHz, frequencyHz / q, sampleRateHz);
    case 'low-pass':
      return lowPassSection(frequencyHz, q, sampleRateHz);
    case 'band-pass':
      return bandPassSection(frequencyHz, q, sampleRateHz);
  }
}

type Values = ParameterValues<typeof parameters>;
const bandsOf = (values: Values): readonly ToneBand[] => values['bands'] as readonly ToneBand[];
/** What glides must be positive: the gain goes as an amplitude. */
const glidingValues = (bands: readonly ToneBand[]): number[] =>
  bands.flatMap(({ frequencyHz, gainDb, q }) => [frequencyHz, 10 ** (gainDb / 20), q]);

class Tone extends GlidingFilter implements TreatmentProcessor<typeof parameters> {
  readonly #shapes: readonly string[];

  constructor(context: ProcessorContext, values: Values) {
    const bands = bandsOf(values);
    const shapes = bands.map(({ shape }) => shape);
    super(context, glidingValues(bands), (moved) =>
      shapes.map((shape, i) =>
        toneSection(
          { shape, frequencyHz: moved[3 * i]!, gainDb: 20 * Math.log10(moved[3 * i + 1]!), q: moved[3 * i + 2]! },
          context.sampleRateHz,
        ),
      ),
    );
    this.#shapes = shapes;
  }

  setParameters(values: Values): boolean {
    const bands = bandsOf(values);
    if (bands.length !== this.#shapes.length || bands.some(({ shape }, i) => shape !== this.#shapes[i])) return false;
    this.glideTo(glidingValues(bands));
    return true;
  }
}

/**
 * What turns as the bands do. The phase of a notch jumps where it takes everything: there an all-pass stands for it; a band-pass is
 * for listening, and compared with the source as it is.
 */
class ToneTurn extends PhaseFilter implements TreatmentProcessor<typeof parameters> {
  readonly #count: number;
  readonly #sampleRateHz: number;

  constructor(context: ProcessorContext, values: Values) {
    super(context, turningSections(values, context.sampleRateHz));
    this.#count = bandsOf(values).length;
    this.#sampleRateHz = context.sampleRateHz;
  }

  setParameters(values: Values): boolean {
    if (bandsOf(values).length !== this.#count) return false;
    this.set(turningSections(values, this.#sampleRateHz));
    return true;
  }
}

const turningSections = (values: Values, sampleRateHz: number): Section[] =>
  bandsOf(values).map((band) => {
    if (band.shape === 'band-pass') return PASS;
    if (band.shape !== 'notch' || band.frequencyHz >= 0.49 * sampleRateHz) return toneSection(band, sampleRateHz);
    return notchTurn(band.frequencyHz, band.frequencyHz / band.q, sampleRateHz);
  });

const sign = (db: number): string => `${db > 0 ? '+' : ''}${db} dB`;
const inWords = ({ shape, frequencyHz, gainDb }: ToneBand): string =>
  `${lists.bands.choices.shape.options.find(({ value }) => value === shape)!.title.toLowerCase()} ${Math.round(frequencyHz)} Hz${/shelf|bell/.test(shape) ? ` ${sign(gainDb)}` : ''}`;

export const tone = defineTreatment({
  kind: 'tone',
  title: 'Tone',
  sentence: 'Shelves, bells, notches and passes over the spectrum of this voice.',
  parameters,
  lists,
  needsNoiseProfile: false,
  mayRaise: true,
  summary: (values) => {
    const bands = bandsOf(values);
    if (bands.length === 0) return 'no bands yet';
    return bands.length < 3 ? bands.map(inWords).join(' · ') : `${bands.length} bands`;
  },
  create: (context, values) => new Tone(context, values),
  turn: (context, values) => new ToneTurn(context, values),
});

export const asToneBands = (rows: readonly ListRow[]): readonly ToneBand[] => rows as unknown as readonly ToneBand[];
