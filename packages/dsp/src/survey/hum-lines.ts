import type { KernelModule } from '../kernels/instance.js';
import { RealFft } from '../kernels/real-fft.js';
import { hannWindow } from '../spectrum/window.js';
import { quantile } from './growing.js';

/** A steady line: RMS level, and how far it stands above the floor beside it. */
export interface Line {
  readonly hz: number;
  readonly dbfs: number;
  readonly aboveDb: number;
}

/** Frames of about one second, a hertz a bin, every half second: short enough to fit between words. */
const SIZE = 4096;
/** Of so many frames the quiet ones count: a line is there in every gap, a voice is not. */
const GROUP = 24;
const QUIET_SHARE = 0.15;
/** A line stands this far above the median beside it; more where the floor is only known from few frames. */
const LEAST_ABOVE_DB = 9;
/** A harmonic of a hum that is known already needs less. */
const LEAST_HARMONIC_ABOVE_DB = 5;
/** A peak is known to this, where a voice leans on it: the bins are a hertz wide. */
const RESOLUTION_HZ = 0.6;
const BESIDE_HZ = 12;
const APART_HZ = 2.5;
const LOWEST_HZ = 22;
const HIGHEST_HZ = 1500;

/** Finds steady lines below 1.6 kHz, to a hundredth of a hertz, in a copy of the sound at about 4 kHz. */
export class LineFinder {
  readonly #fft: RealFft;
  readonly #window = hannWindow(SIZE);
  readonly #history = new Float32Array(SIZE);
  /** Bins up to where lines are looked for, and what lies beside. */
  readonly #bins: number;
  #group: Float32Array[] = [];
  readonly #groups: Float32Array[] = [];
  #fill = SIZE / 2;

  constructor(
    kernels: KernelModule,
    private readonly rateHz: number,
  ) {
    this.#fft = new RealFft(kernels, SIZE);
    this.#bins = Math.min(SIZE / 2, Math.ceil(((HIGHEST_HZ + 2 * BESIDE_HZ) * SIZE) / rateHz));
  }

  readonly take = (x: number): void => {
    this.#history[this.#fill++] = x;
    if (this.#fill < SIZE) return;
    this.#fill = SIZE / 2;
    this.#frame();
    this.#history.copyWithin(0, SIZE / 2);
  };

  #frame(): void {
    const { frame, re, im, forward } = this.#fft;
    const history = this.#history;
    const window = this.#window;
    for (let n = 0; n < SIZE; n++) frame[n] = history[n]! * window[n]!;
    forward();
    // A line of mean square m reads m at its bin: |X|² = m N² / 8 under a Hann window.
    const levels = new Float32Array(this.#bins);
    for (let k = 0; k < levels.length; k++) levels[k] = 10 * Math.log10((re[k]! * re[k]! + im[k]! * im[k]!) * (8 / SIZE / SIZE) + 1e-16);
    this.#group.push(levels);
    if (this.#group.length === GROUP) this.#close();
  }

  #close(): void {
    const group = this.#group;
    const quiet = new Float32Array(this.#bins);
    const values = new Float32Array(group.length);
    for (let k = 0; k < quiet.length; k++) {
      for (let i = 0; i < group.length; i++) values[i] = group[i]![k]!;
      quiet[k] = values.sort()[Math.floor(QUIET_SHARE * values.length)]!;
    }
    this.#groups.push(quiet);
    this.#group = [];
  }

  /** What was found. */
  finish(): FoundLines {
    if (this.#group.length > 1) this.#close();
    const groups = this.#groups;
    if (groups.length === 0) return { lines: [], track: () => [], probe: () => null };
    const bins = groups[0]!.length;
    const mean = Float32Array.from({ length: bins }, (_, k) => groups.reduce((sum, group) => sum + group[k]!, 0) / groups.length);
    return {
      lines: this.#linesOf(mean),
      track: (hz) => groups.map((group) => this.#interpolated(group, this.#peakNear(group, hz)) * (this.rateHz / SIZE)),
      probe: (hz) => {
        if (hz > HIGHEST_HZ) return null;
        const line = this.#lineAt(mean, this.#peakNear(mean, hz));
        return line && line.aboveDb >= LEAST_HARMONIC_ABOVE_DB && Math.abs(line.hz - hz) < RESOLUTION_HZ ? line : null;
      },
    };
  }

  #linesOf(levels: Float32Array): Line[] {
    const binHz = this.rateHz / SIZE;
    const lines: Line[] = [];
    for (let k = Math.ceil(LOWEST_HZ / binHz); k < HIGHEST_HZ / binHz; k++) {
      if (levels[k]! < -110 || levels[k]! <= levels[k - 1]! || levels[k]! < levels[k + 1]!) continue;
      const line = this.#lineAt(levels, k);
      if (line && line.aboveDb >= LEAST_ABOVE_DB + line.scatterDb) lines.push(line);
    }
    // Side lobes and shoulders of a strong line are no lines of their own.
    return lines.filter(
      (line) => !lines.some((other) => other !== line && Math.abs(other.hz - line.hz) < 7 && other.dbfs > line.dbfs + 10),
    );
  }

  /** The line at a peak, against what lies on either side of it; the floor may slope. */
  #lineAt(levels: Float32Array, k: number): (Line & { readonly scatterDb: number }) | null {
    const binHz = this.rateHz / SIZE;
    const beside = Math.round(BESIDE_HZ / binHz);
    const apart = Math.round(APART_HZ / binHz);
    if (k - beside < 1 || k + beside >= levels.length) return null;
    const below = levels.subarray(k - beside, k - apart);
    const above = levels.subarray(k + apart + 1, k + beside + 1);
    const middle = (quantile(below, 0.5) + quantile(above, 0.5)) / 2;
    const scatterDb = (quantile(below, 0.9) - quantile(below, 0.5) + quantile(above, 0.9) - quantile(above, 0.5)) / 2;
    return { hz: this.#interpolated(levels, k) * binHz, dbfs: this.#peakLevel(levels, k), aboveDb: levels[k]! - middle, scatterDb };
  }

  #interpolated(levels: Float32Array, k: number): number {
    const [a, b, c] = [levels[k - 1]!, levels[k]!, levels[k + 1]!];
    const bend = a - 2 * b + c;
    return bend < 0 ? k + (a - c) / (2 * bend) : k;
  }

  #peakLevel(levels: Float32Array, k: number): number {
    const [a, b, c] = [levels[k - 1]!, levels[k]!, levels[k + 1]!];
    const bend = a - 2 * b + c;
    return bend < 0 ? b - (a - c) ** 2 / (8 * bend) : b;
  }

  #peakNear(levels: Float32Array, hz: number): number {
    const middle = Math.round((hz * SIZE) / this.rateHz);
    let best = middle;
    for (let k = Math.max(1, middle - 1); k <= middle + 1; k++) if (levels[k]! > levels[best]!) best = k;
    return best;
  }
}

/** The lines found, lowest first; where a line near `hz` stood, group by group; and a weaker one where it is expected. */
export interface FoundLines {
  readonly lines: readonly Line[];
  readonly track: (hz: number) => number[];
  readonly probe: (hz: number) => Line | null;
}

/** A hum: a base and which of its harmonics are there. */
export interface Hum {
  readonly baseHz: number;
  readonly lines: readonly (Line & { readonly harmonic: number })[];
  readonly source: 'mains' | 'stray';
}

const MAINS = [50, 60] as const;
/** Mains stay this close to their nominal frequency in a recording, its own clock included. */
const MAINS_OFF_HZ = 0.6;
const MOST_HARMONIC = 30;

/** Sorts lines into hums: mains first, then what is left, each strong line as a tone of its own. */
export function humsOf({ lines, probe }: Pick<FoundLines, 'lines' | 'probe'>): Hum[] {
  const hums: Hum[] = [];
  let left = [...lines];
  const take = (baseHz: number, source: Hum['source']): void => {
    const members = membersOf(left, baseHz);
    if (members.length === 0) return;
    const refined = baseOf(members);
    hums.push({ baseHz: refined, lines: onePerHarmonic(members, refined), source });
    left = left.filter((line) => !members.some(({ hz }) => hz === line.hz));
    const hum = hums[hums.length - 1]!;
    if (source === 'mains') hums[hums.length - 1] = { ...hum, lines: withWeakHarmonics(hum.lines, refined, probe) };
  };
  for (const nominal of MAINS) {
    const candidates = left.flatMap((line) => {
      const harmonic = Math.round(line.hz / nominal);
      return harmonic >= 1 && harmonic <= MOST_HARMONIC && Math.abs(line.hz / harmonic - nominal) < MAINS_OFF_HZ
        ? [line.hz / harmonic]
        : [];
    });
    const best = candidates
      .map((baseHz) => ({ baseHz, members: membersOf(left, baseHz) }))
      .sort((a, b) => b.members.length - a.members.length)[0];
    // One line alone is mains only at the base or its double; other single lines are stray tones that happen to be near.
    if (best && (best.members.length >= 2 || best.members[0]!.harmonic <= 2)) take(best.baseHz, 'mains');
  }
  for (const line of [...left].sort((a, b) => b.dbfs - a.dbfs))
    if (left.includes(line) && line.aboveDb >= LEAST_ABOVE_DB + 5) take(line.hz, 'stray');
  return hums;
}

/** Harmonics between and above the strong ones that stand out a little less: up to three beyond the last. */
function withWeakHarmonics(lines: Hum['lines'], baseHz: number, probe: FoundLines['probe']): Hum['lines'] {
  const all = [...lines];
  const last = Math.max(...lines.map(({ harmonic }) => harmonic));
  for (let harmonic = 1; harmonic <= last + 3; harmonic++) {
    const found = all.some((line) => line.harmonic === harmonic) ? null : probe(harmonic * baseHz);
    if (found) all.push({ ...found, hz: harmonic * baseHz, harmonic });
  }
  return all.sort((a, b) => a.harmonic - b.harmonic);
}

/**
 * The base of lines: where most of their weight lies, then the mean of those that agree with it to a few hundredths of a hertz, each
 * weighed by its number: the highest say it most precisely. One that a voice pulls aside has no say.
 */
function baseOf(members: readonly (Line & { readonly harmonic: number })[]): number {
  const sorted = members
    .map((line) => ({ ...line, weight: line.harmonic * line.aboveDb, base: line.hz / line.harmonic }))
    .sort((a, b) => a.base - b.base);
  const half = sorted.reduce((sum, { weight }) => sum + weight, 0) / 2;
  let sum = 0;
  const middle = sorted.find(({ weight }) => (sum += weight) >= half)!.base;
  const agreeing = members.filter(({ hz, harmonic }) => Math.abs(hz - harmonic * middle) < 0.15 + 0.03 * harmonic);
  const weights = agreeing.reduce((all, { harmonic }) => all + harmonic * harmonic, 0);
  return agreeing.reduce((all, { hz, harmonic }) => all + hz * harmonic, 0) / weights;
}

/** Every harmonic once, the nearest to its place, at its place within the resolution. */
function onePerHarmonic<L extends Line & { readonly harmonic: number }>(members: readonly L[], baseHz: number): L[] {
  const off = ({ hz, harmonic }: L): number => Math.abs(hz - harmonic * baseHz);
  return members
    .filter((line) => !members.some((other) => other !== line && other.harmonic === line.harmonic && off(other) < off(line)))
    .map((line) => ({ ...line, hz: line.harmonic * baseHz }));
}

function membersOf(lines: readonly Line[], baseHz: number): (Line & { harmonic: number })[] {
  return lines.flatMap((line) => {
    const harmonic = Math.round(line.hz / baseHz);
    return harmonic >= 1 && harmonic <= MOST_HARMONIC && Math.abs(line.hz - harmonic * baseHz) < RESOLUTION_HZ + 0.03 * harmonic
      ? [{ ...line, harmonic }]
      : [];
  });
}
