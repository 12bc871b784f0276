import type { Memory } from '../../memory.js';

/** Steps of 512 frames, some 10 ms: the grid on which chains start is a multiple. */
export const STEP_FRAMES = 512;
/** So many steps are heard ahead: what a phrase is like is known when it begins. */
export const AHEAD_STEPS = 40;

/** Talk stands so far above the floor, and no further below the speech before. */
const OVER_FLOOR_DB = 9;
const UNDER_SPEECH_DB = 24;
const QUIETEST_LUFS = -64;
/** The floor is the least of the last one to two seconds, each level being that of three steps: words have dips, steady noise has none. */
const FLOOR_STEPS = 94;
/** After a pause of so many steps a phrase begins; after a long one little is left of what the phrase before was like. */
const PAUSE_STEPS = 15;
const LONG_PAUSE_STEPS = 30;
const PRIOR_STEPS = { short: 10, long: 1 } as const;
const RING = 64;

/**
 * How loud a voice is, phrase by phrase, from the loudness of steps: an average over what is talk, with little memory at the beginning
 * of a phrase and `speedSteps` of it later on.
 */
export class SpeechLevel {
  readonly #phrases = new Int32Array(RING).fill(-1);
  readonly #levels = new Float32Array(RING);
  #step = 0;
  readonly #floor = new Float64Array(4);
  #phrase = 0;
  /** Mean power of the talk, 0 while there was none, over so many steps. */
  #power = 0;
  #weight = 0;
  #silentSteps = LONG_PAUSE_STEPS;
  /** Power and number of the steps since the last word: they are of the phrase if it goes on. */
  #dip = 0;

  constructor() {
    this.reset();
  }

  reset(): void {
    this.#phrases.fill(-1);
    this.#step = this.#phrase = this.#power = this.#weight = this.#dip = 0;
    this.#floor.set([Infinity, Infinity, 0, 0]);
    this.#silentSteps = LONG_PAUSE_STEPS;
  }

  /** The next step: its loudness, LUFS. */
  take(lufs: number, speedSteps: number): void {
    const floor = this.#followFloor(lufs);
    const speech = this.#power > 0 ? 10 * Math.log10(this.#power) : -Infinity;
    const talks = lufs > Math.max(QUIETEST_LUFS, floor + OVER_FLOOR_DB, speech - UNDER_SPEECH_DB);
    if (talks) {
      if (this.#silentSteps >= PAUSE_STEPS) {
        this.#phrase++;
        this.#weight = Math.min(this.#weight, this.#silentSteps >= LONG_PAUSE_STEPS ? PRIOR_STEPS.long : PRIOR_STEPS.short);
      }
      // Dips between syllables are of the phrase, as they are in blocks of 0.4 s; a pause is not.
      const dips = this.#silentSteps < PAUSE_STEPS ? this.#silentSteps : 0;
      const power = 10 ** (lufs / 10) + (dips > 0 ? this.#dip : 0);
      this.#weight = Math.min(speedSteps, this.#weight + 1 + dips);
      this.#power += (power - (1 + dips) * this.#power) / Math.max(1 + dips, this.#weight);
      this.#silentSteps = this.#dip = 0;
    } else {
      this.#silentSteps++;
      this.#dip += 10 ** (lufs / 10);
    }
    const at = this.#step++ % RING;
    this.#phrases[at] = talks ? this.#phrase : -1;
    this.#levels[at] = this.#power > 0 ? 10 * Math.log10(this.#power) : NaN;
  }

  /** The level that is never quieter for one to two seconds. Held: least of this second, of the one before, how far it is, level of three steps. */
  #followFloor(lufs: number): number {
    const [least, before, count, level] = this.#floor as unknown as [number, number, number, number];
    const smooth = this.#step === 0 ? lufs : level + (lufs - level) / 3;
    const over = count >= FLOOR_STEPS;
    this.#floor.set([over ? smooth : Math.min(least, smooth), over ? least : before, over ? 1 : count + 1, smooth]);
    return Math.min(this.#floor[0]!, this.#floor[1]!);
  }

  /** Somebody talks in any of the steps from `from` to `to`, counted from the newest (0) back. */
  talks(from: number, to: number): boolean {
    for (let ago = from; ago <= to; ago++) if (this.#phraseAgo(ago) >= 0) return true;
    return false;
  }

  /** The level of the phrase that sounds `ago` steps before the newest, or begins after it, LUFS; as it is known now. NaN without any talk. */
  level(ago: number): number {
    let at = ago;
    while (at > 0 && this.#phraseAgo(at) < 0) at--;
    const phrase = this.#phraseAgo(at);
    let latest = 0;
    while (latest < at && this.#phraseAgo(latest) !== phrase) latest++;
    return this.#step > latest ? this.#levels[(this.#step - 1 - latest) % RING]! : NaN;
  }

  #phraseAgo(ago: number): number {
    return ago < this.#step ? this.#phrases[(this.#step - 1 - ago) % RING]! : -1;
  }

  remember(memory: Memory): void {
    for (let i = 0; i < this.#floor.length; i++) this.#floor[i] = memory.number(this.#floor[i]!);
    this.#dip = memory.number(this.#dip);
    this.#phrase = memory.number(this.#phrase);
    this.#power = memory.number(this.#power);
    this.#weight = memory.number(this.#weight);
    this.#silentSteps = memory.number(this.#silentSteps);
    // What was heard lately was judged without these: it is taken over as well.
    this.#step = memory.number(this.#step);
    const phrases = Float32Array.from(this.#phrases);
    memory.floats(phrases);
    this.#phrases.set(phrases);
    memory.floats(this.#levels);
  }
}
