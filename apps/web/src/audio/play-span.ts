import type { Player } from './player.js';

type Played = Pick<Player, 'frame' | 'playing' | 'play' | 'seek' | 'stop' | 'subscribe'>;

/** What is heard of a place: from where, up to where (null: on and on), and where the playhead is afterwards. */
export interface PlayedSpan {
  readonly fromFrame: number;
  readonly untilFrame: number | null;
  readonly backTo: number;
}

/** The span that a player plays now, if it plays one. */
const watched = new WeakMap<Played, () => void>();

/** Plays a span and stops by itself; whoever stops it before, or plays something else, ends it. */
export async function playSpan(player: Played, { fromFrame, untilFrame, backTo }: PlayedSpan): Promise<void> {
  watched.get(player)?.();
  player.seek(fromFrame);
  await player.play();
  let last = fromFrame;
  const end = (): void => {
    stop();
    watched.delete(player);
  };
  const stop = player.subscribe(() => {
    const { frame } = player;
    // Somebody has gone elsewhere: what plays there is theirs.
    if (player.playing && frame < last - 1) return end();
    last = frame;
    if (player.playing && (untilFrame === null || frame < untilFrame)) return;
    end();
    player.stop();
    player.seek(backTo);
  });
  watched.set(player, end);
}
