import { copyFrames } from '../../copy-frames.js';
import type { PlanarBlock, ProcessorContext } from '../../processor.js';
import { dbToGain, powerToDb } from '../../units.js';
import { defineTreatment, type ListRow, type ListSpec, type ParameterValues, type TreatmentProcessor } from '../definition.js';

/** One breath: where it is, how sure that it is one, and whether it is left as it is. */
export interface Breath {
  readonly startSeconds: number;
  readonly endSeconds: number;
  readonly certaintyPercent: number;
  readonly state: 'treat' | 'leave';
}

const parameters = {
  reductionDb: {
    title: 'Reduction', unit: 'dB', min: 0, max: 40, default: 10, step: 0.5, practice: [6, 14], scale: 'linear',
    sentence: 'How far breaths are lowered. A speaker without any breath does not sound alive.',
  },
  fadeMs: {
    title: 'Fades', unit: 'ms', min: 5, max: 200, default: 50, step: 5, practice: [30, 80], scale: 'linear',
    sentence: 'How gently it goes down and comes back, within the breath and never over more than half of it.',
  },
  leastPercent: {
    title: 'As sure as', unit: '%', min: 0, max: 100, default: 50, step: 1, practice: [40, 70], scale: 'linear',
    sentence: 'What is less surely a breath is left as it is.',
  },
} as const;

const choices = {
  way: {
    title: 'Way', default: 'lower', sentence: 'What happens to a breath.',
    options: [
      { value: 'lower', title: 'lower', sentence: 'Lowered as a whole.' },
      { value: 'ease', title: 'ease in', sentence: 'Lowered at its beginning, rising into the word.' },
    ],
  },
} as const;

const breathsList: ListSpec = {
  title: 'Breaths',
  most: 2000,
  sentence: 'Where breaths are, and which are left as they are.',
  choices: {
    state: {
      title: 'State', default: 'treat', sentence: 'Whether it is treated.',
      options: [
        { value: 'treat', title: 'treat', sentence: 'Lowered, when it is sure enough.' },
        { value: 'leave', title: 'leave', sentence: 'Left as it is.' },
      ],
    },
  },
  fields: {
    startSeconds: { title: 'From', unit: 's', min: 0, max: 86400, default: 0, step: 0.001, practice: [0, 86400], scale: 'linear', sentence: 'Where it begins, in seconds of the recording.' },
    endSeconds: { title: 'To', unit: 's', min: 0, max: 86400, default: 0, step: 0.001, practice: [0, 86400], scale: 'linear', sentence: 'Where it ends.' },
    certaintyPercent: { title: 'Certainty', unit: '%', min: 0, max: 100, default: 100, step: 1, practice: [50, 100], scale: 'linear', sentence: 'How sure it is that this is a breath.' },
  },
  conflict: (row) => {
    const { startSeconds, endSeconds } = row as unknown as Breath;
    return startSeconds >= endSeconds ? `startSeconds (${startSeconds}) must be before endSeconds (${endSeconds}).` : undefined;
  },
};

type Values = ParameterValues<typeof parameters>;
export const asBreaths = (rows: readonly ListRow[]): readonly Breath[] => rows as unknown as readonly Breath[];

/** Breaths that are treated: sure enough and not excepted, in their order; of two that overlap the first. */
export function treatedBreaths(values: Values): Breath[] {
  const sure = asBreaths(values['breaths'] as readonly ListRow[]).filter(({ state, certaintyPercent }) => state === 'treat' && certaintyPercent >= values.leastPercent);
  const treated: Breath[] = [];
  for (const breath of [...sure].sort((a, b) => a.startSeconds - b.startSeconds))
    if (breath.startSeconds >= (treated[treated.length - 1]?.endSeconds ?? 0)) treated.push(breath);
  return treated;
}

interface Place {
  readonly from: number;
  readonly to: number;
  readonly fadeFrames: number;
}

/** A gain over each breath, with raised-cosine fades; nothing else is touched, not by a bit. */
class Breaths implements TreatmentProcessor<typeof parameters> {
  readonly latencyFrames = 0;
  readonly #places: readonly Place[];
  readonly #key: string;
  #reductionDb = 0;
  #ease = false;
  #at: number;
  #next = 0;
  #power = 0;

  constructor(private readonly context: ProcessorContext, values: Values) {
    const rate = context.sampleRateHz;
    this.#places = treatedBreaths(values).map(({ startSeconds, endSeconds }) => {
      const [from, to] = [Math.round(startSeconds * rate), Math.round(endSeconds * rate)];
      return { from, to, fadeFrames: Math.max(1, Math.min(Math.round((values.fadeMs / 1000) * rate), (to - from) >> 1)) };
    });
    this.#key = keyOf(values);
    this.#at = context.startFrame ?? 0;
    this.setParameters(values);
    this.reset();
  }

  setParameters(values: Values): boolean {
    if (keyOf(values) !== this.#key) return false;
    this.#reductionDb = values.reductionDb;
    this.#ease = values['way'] === 'ease';
    return true;
  }

  reset(): void {
    this.#at = this.context.startFrame ?? 0;
    this.#next = this.#places.findIndex(({ to }) => to > this.#at);
    if (this.#next < 0) this.#next = this.#places.length;
    this.#power = 0;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    for (let c = 0; c < input.length; c++) if (input[c] !== output[c]) copyFrames(input[c]!, 0, output[c]!, 0, frames);
    const start = this.#at;
    this.#at += frames;
    while (this.#next < this.#places.length && this.#places[this.#next]!.from < this.#at) {
      const place = this.#places[this.#next]!;
      for (let frame = Math.max(start, place.from); frame < Math.min(this.#at, place.to); frame++) {
        const gain = this.#gainAt(frame, place);
        for (let c = 0; c < output.length; c++) {
          const x = output[c]![frame - start]!;
          this.#power += x * x;
          output[c]![frame - start] = x * gain;
        }
      }
      if (place.to > this.#at) return;
      this.#tell(place);
      this.#next++;
    }
  }

  #gainAt(frame: number, { from, to, fadeFrames }: Place): number {
    const ramp = (x: number): number => 0.5 - 0.5 * Math.cos(Math.PI * Math.min(1, x));
    const into = ramp((frame - from + 0.5) / fadeFrames);
    const out = this.#ease ? 1 - (frame - from) / (to - from) : 1;
    const end = ramp((to - frame - 0.5) / fadeFrames);
    return dbToGain(-this.#reductionDb * into * out * end);
  }

  #tell({ from, to }: Place): void {
    const levelDbfs = powerToDb(this.#power / Math.max(1, (to - from) * this.context.channels) + 1e-20);
    this.#power = 0;
    this.context.onEvent?.({ kind: 'breaths', channel: 0, startFrame: from, endFrame: to, amountDb: this.#reductionDb, levelDbfs });
  }
}

const keyOf = (values: Values): string => JSON.stringify([values['breaths'], values.fadeMs, values.leastPercent]);

export const breaths = defineTreatment({
  kind: 'breaths',
  title: 'Breaths',
  sentence: 'Lowers the breaths between phrases, each with fades of its own; the words are not touched.',
  parameters,
  choices,
  lists: { breaths: breathsList },
  background: true,
  needsNoiseProfile: false,
  summary: (values) => {
    const count = treatedBreaths(values).length;
    return count === 0 ? 'none yet' : `${count === 1 ? '1 breath' : `${count} breaths`} · −${values.reductionDb} dB`;
  },
  create: (context, values) => new Breaths(context, values),
});
