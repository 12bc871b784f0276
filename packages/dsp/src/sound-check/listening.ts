import { powerToDb } from '../units.js';

/** The three short listens, in their order. */
export type Listen = 'silence' | 'usual' | 'speech';
export const listens: readonly Listen[] = ['silence', 'usual', 'speech'];

/** How far a listen is. */
export interface ListenState {
  readonly seconds: number;
  /** 0 … 1: at 1 it is enough. */
  readonly share: number;
  readonly enough: boolean;
  /** What disturbed it, or is missing yet. */
  readonly hint: 'sounds' | 'too-loud' | 'nothing-heard' | 'more-talk' | null;
  /** Sounds or words so far. */
  readonly count: number;
  /** From here on it counts: what came before a disturbance does not. */
  readonly fromFrame: number;
}

// Common practice, no source: two seconds make a good profile, four leave room to choose; some sentences show how somebody speaks.
const SILENCE_SECONDS = 4;
const USUAL_SECONDS = 6;
const USUAL_MOST_SECONDS = 15;
const USUAL_SOUNDS = 8;
const TALK_SECONDS = 8;
const SPEECH_SECONDS = 12;

const STEP_MS = 10;
/** What rises so far above the quiet of it is no silence; what rises so far above the silence is a sound, or a word. */
const DISTURBED_DB = 8;
const SOUND_OVER_DB = 6;
const WORD_OVER_DB = 12;
/** Nearer together it is one sound; a word is longer than that. */
const SOUND_GAP_STEPS = 8;
const WORD_STEPS = 8;
/** Breath and hand off the key: what comes first does not count. */
const SETTLE_STEPS = 30;
const QUIET_STEPS = 200;
const CLIPPED = 0.999;

/** Tells while somebody listens whether what was heard is enough. Fed with one channel as it comes. */
export class Listening {
  readonly #stepFrames: number;
  readonly #levels: number[] = [];
  #sum = 0;
  #fill = 0;
  #frames = 0;
  #fromStep = SETTLE_STEPS;
  #hint: ListenState['hint'] = null;
  #clipped = false;
  #loudSteps = 0;
  #quietSteps = SOUND_GAP_STEPS;
  #run = 0;
  #count = 0;

  /** @param floorDbfs of the silence that was listened to before; not needed for silence itself. */
  constructor(
    readonly listen: Listen,
    private readonly sampleRateHz: number,
    private readonly floorDbfs = -100,
  ) {
    this.#stepFrames = Math.round((sampleRateHz * STEP_MS) / 1000);
  }

  process(sound: Float32Array): void {
    for (let n = 0; n < sound.length; n++) {
      const x = sound[n]!;
      this.#sum += x * x;
      if (x > CLIPPED || x < -CLIPPED) this.#clipped = true;
      if (++this.#fill < this.#stepFrames) continue;
      this.#take(powerToDb(this.#sum / this.#stepFrames + 1e-14));
      this.#sum = this.#fill = 0;
    }
    this.#frames += sound.length;
  }

  #take(level: number): void {
    this.#levels.push(level);
    if (this.#levels.length <= SETTLE_STEPS) return;
    if (this.listen === 'silence') return this.#mustStayQuiet(level);
    const over = level > this.floorDbfs + (this.listen === 'speech' ? WORD_OVER_DB : SOUND_OVER_DB);
    const least = this.listen === 'speech' ? WORD_STEPS : 1;
    if (over) {
      this.#loudSteps++;
      if (this.#quietSteps >= SOUND_GAP_STEPS) this.#run = 0;
      this.#quietSteps = 0;
      if (++this.#run === least) this.#count++;
    } else this.#quietSteps++;
  }

  /** A step that stands out of the quiet before it lets it begin anew. */
  #mustStayQuiet(level: number): void {
    // Against what is quiet of the last two seconds: a knock is not, a fan that was switched on is after a while.
    const recent = this.#levels.slice(Math.max(SETTLE_STEPS, this.#levels.length - QUIET_STEPS), -1).sort((x, y) => x - y);
    if (recent.length < 10) return;
    if (level < recent[Math.floor(recent.length / 5)]! + DISTURBED_DB) {
      if (this.#levels.length - this.#fromStep > 100) this.#hint = null;
      return;
    }
    this.#hint = 'sounds';
    this.#fromStep = this.#levels.length + SETTLE_STEPS / 2;
  }

  get state(): ListenState {
    const seconds = this.#frames / this.sampleRateHz;
    const talked = (this.#loudSteps * STEP_MS) / 1000;
    const count = this.#count;
    const fromFrame = this.listen === 'silence' ? this.#fromStep * this.#stepFrames : SETTLE_STEPS * this.#stepFrames;
    const share =
      this.listen === 'silence'
        ? ((this.#levels.length - this.#fromStep) * STEP_MS) / 1000 / SILENCE_SECONDS
        : this.listen === 'usual'
          ? Math.max(Math.min(seconds / USUAL_SECONDS, count / USUAL_SOUNDS), seconds / USUAL_MOST_SECONDS)
          : Math.min(talked / TALK_SECONDS, seconds / SPEECH_SECONDS);
    return {
      seconds,
      share: Math.max(0, Math.min(1, share)),
      enough: share >= 1,
      hint: this.#hintOf(seconds, count),
      count,
      fromFrame,
    };
  }

  #hintOf(seconds: number, count: number): ListenState['hint'] {
    if (this.#clipped) return 'too-loud';
    if (this.listen === 'usual') return seconds > 3 && count === 0 ? 'nothing-heard' : null;
    if (this.listen === 'speech') return seconds > 5 && count < 2 ? 'more-talk' : null;
    return this.#hint;
  }
}
