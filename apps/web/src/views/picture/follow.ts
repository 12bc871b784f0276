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
/** A jump while it runs takes about so long. */
const JUMP_SECONDS = 0.04;
/** So fast it catches up: a distance within a third of a second. */
const CATCH_UP = 3;
const MOST_CHANGE = 0.3;

/** What brings a picture to the sound: small ways by its speed, which nobody sees, large ones by a jump. */
export function follow({ wanted, shown, playing, speed, seeking }: Now): Step {
  const behind = wanted - shown;
  if (seeking) return { rate: speed };
  if (!playing) return Math.abs(behind) > NEAR_SECONDS ? { seekTo: Math.max(0, wanted), rate: speed } : { rate: speed };
  if (Math.abs(behind) > FAR_SECONDS * Math.max(1, speed)) return { seekTo: Math.max(0, wanted + JUMP_SECONDS * speed), rate: speed };
  if (Math.abs(behind) <= NEAR_SECONDS) return { rate: speed };
  return { rate: speed * (1 + Math.max(-MOST_CHANGE, Math.min(MOST_CHANGE, CATCH_UP * behind))) };
}
