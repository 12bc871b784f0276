import { clipAfter, clipEnd, lineDb, offsetOf, spanFrames, type Clip, type Span } from '@euphonos/engine';

/** A stretch of the session that is drawn from one stretch of the recording. */
export interface Run {
  readonly startFrame: number;
  readonly endFrame: number;
  /** Frames of the recording from frames of the session. */
  readonly offset: number;
  readonly kind: Clip['sound']['kind'];
  /** What the clips do to the level after the chain, at a frame of the session; fades aside. */
  readonly gainAt: (frame: number) => number;
}

/** Less than this cannot be seen. */
const HARDLY_PX = 0.6;
/** So many stretches of room tone are drawn at most: it is the same over and over. */
const MOST_TONE_RUNS = 400;
const gainOf = (db: number): number => 10 ** (db / 20);

/**
 * What is drawn of the clips between two frames of the session. Pieces that go on unchanged are one, and so are those that
 * are drawn less than a pixel away from where they would be: thousands of clips are then some hundred runs.
 */
export function runsIn(clips: readonly Clip[], roomTone: Span | null, startFrame: number, endFrame: number, framesPerPx = 0): Run[] {
  const runs: Run[] = [];
  let last: Clip | undefined;
  for (let i = clipAfter(clips, startFrame); i < clips.length && clips[i]!.startFrame < endFrame; i++) {
    const clip = clips[i]!;
    const run = runs[runs.length - 1];
    if (run && last && clip.sound.kind !== 'room-tone' && drawnAlike(last, clip) && near(run, clip, last, framesPerPx))
      runs[runs.length - 1] = { ...runs[runs.length - 1]!, endFrame: clipEnd(clip) };
    else if (clip.sound.kind === 'room-tone') runs.push(...toneRuns(clip, roomTone, startFrame, endFrame));
    else
      runs.push({
        startFrame: clip.startFrame,
        endFrame: clipEnd(clip),
        offset: offsetOf(clip),
        kind: clip.sound.kind,
        gainAt: gainLineOf(clip),
      });
    last = clip;
  }
  return runs;
}

/** Whether a clip goes on where the run ends, as closely as can be seen. */
const near = (run: Run, clip: Clip, last: Clip, framesPerPx: number): boolean =>
  Math.abs(run.offset - offsetOf(clip)) <= HARDLY_PX * framesPerPx && clip.startFrame - clipEnd(last) <= HARDLY_PX * framesPerPx;

const drawnAlike = (a: Clip, b: Clip): boolean =>
  a.sound.kind === b.sound.kind && a.gainDb === b.gainDb && a.line.length + b.line.length === 0;

function gainLineOf(clip: Clip): (frame: number) => number {
  if (clip.sound.kind === 'silence') return () => 0;
  const gain = gainOf(clip.gainDb);
  return clip.line.length === 0 ? () => gain : (frame) => gain * gainOf(lineDb(clip.line, frame + offsetOf(clip)));
}

/** Room tone looks like the passage that it is made of, again and again. */
function toneRuns(clip: Clip, roomTone: Span | null, startFrame: number, endFrame: number): Run[] {
  if (!roomTone) return [];
  const gain = gainOf(clip.gainDb + (clip.sound.kind === 'room-tone' ? clip.sound.gainDb : 0));
  const length = spanFrames(roomTone);
  const end = Math.min(endFrame, clipEnd(clip));
  const first = clip.startFrame + Math.max(0, Math.floor((startFrame - clip.startFrame) / length)) * length;
  const count = Math.min(MOST_TONE_RUNS, Math.ceil((end - first) / length));
  return Array.from({ length: Math.max(0, count) }, (_, i): Run => {
    const from = first + i * length;
    return {
      startFrame: from,
      endFrame: Math.min(from + length, clipEnd(clip)),
      offset: roomTone.startFrame - from,
      kind: 'room-tone',
      gainAt: () => gain,
    };
  });
}
