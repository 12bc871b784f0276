/** What a picture does to be where the sound is. */
export interface Step {
  /** Goes there, in seconds of the picture. */
  readonly seekTo?: number;
  /** How fast it runs. */
  readonly rate: number;
}

interface Now {
  /** Where the sound is, in seconds of the picture. */
  readonly wanted: number;
  readonly shown: number;
  readonly playing: boolean;
  readonly speed: number;
  /** It is still on its way to where it was sent. */
  readonly seeking: boolean;
}

/** Less than half of a frame of 50 a second: nobody sees it. */
const NEAR_SECONDS = 0.008;
/** From here on it jumps; nearer it catches up. */
const FAR_SECONDS = 0.15;
/** A jump while it runs takes about so long, until it is known; and what is no jump any more. */
const JUMP_SECONDS = 0.04;
const MOST_JUMP_SECONDS = 0.5;
/** Of a picture that does not run again after so many looks nothing is learnt. */
const MOST_LOOKS = 30;
/** So fast it catches up: a distance within a third of a second. */
const CATCH_UP = 3;
const MOST_CHANGE = 0.3;

/** What brings a picture to the sound: small ways by its speed, which nobody sees, large ones by a jump. */
export class Follower {
  /** How long a jump takes here: by how much it came too late or too early the last time. */
  #jumpSeconds = JUMP_SECONDS;
  #sentTo: number | null = null;
  #looks = 0;

  step(now: Now): Step {
    if (this.#arrives(now)) return { rate: now.speed };
    const step = follow(now, this.#jumpSeconds);
    if (step.seekTo !== undefined) [this.#sentTo, this.#looks] = [now.playing ? step.seekTo : null, 0];
    return step;
  }

  /** It is where it was sent to and does not run yet; when it does, it is seen how long the jump took. */
  #arrives({ wanted, shown, playing, speed, seeking }: Now): boolean {
    if (this.#sentTo === null || seeking) return false;
    if (playing && shown <= this.#sentTo && this.#looks++ < MOST_LOOKS) return true;
    const late = (wanted - shown) / speed;
    if (playing && shown > this.#sentTo && Math.abs(late) < MOST_JUMP_SECONDS)
      this.#jumpSeconds = Math.max(0, Math.min(MOST_JUMP_SECONDS, this.#jumpSeconds + late));
    this.#sentTo = null;
    return false;
  }
}

function follow({ wanted, shown, playing, speed, seeking }: Now, jumpSeconds: number): Step {
  const behind = wanted - shown;
  if (seeking) return { rate: speed };
  if (!playing) return Math.abs(behind) > NEAR_SECONDS ? { seekTo: Math.max(0, wanted), rate: speed } : { rate: speed };
  if (Math.abs(behind) > FAR_SECONDS * Math.max(1, speed)) return { seekTo: Math.max(0, wanted + jumpSeconds * speed), rate: speed };
  if (Math.abs(behind) <= NEAR_SECONDS) return { rate: speed };
  return { rate: speed * (1 + Math.max(-MOST_CHANGE, Math.min(MOST_CHANGE, CATCH_UP * behind))) };
}
