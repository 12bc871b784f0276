import { applyEdit, createDocument, type Clip, type Edit } from '@euphonos/engine';
import { clipWords, cutFrames, drawClips, drawEdges, fadeHandles, HANDLE_PX } from './draw-clips.js';
import { TimeView } from './time-view.js';

jest.mock('./inks.js', () => ({ pageColour: (name: string) => name }));

const LENGTH = 480_000;
const of = { trackId: 'track-1' };
const after = (...edits: Edit[]): readonly Clip[] =>
  edits.reduce(applyEdit, createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: 48_000, channels: 1 })).tracks[0]!.clips;
const span = (startFrame: number, endFrame: number) => ({ startFrame, endFrame });
const view = (): TimeView => {
  const made = new TimeView(LENGTH);
  made.resize(800);
  return made;
};
/** A pen that takes down what it is told to write, and where it draws upright lines. */
function pen() {
  const words: string[] = [];
  const lines: number[] = [];
  const nothing = (): void => undefined;
  const made = {
    clearRect: nothing,
    save: nothing,
    restore: nothing,
    beginPath: nothing,
    rect: nothing,
    clip: nothing,
    moveTo: nothing,
    lineTo: nothing,
    stroke: nothing,
    setLineDash: nothing,
    fillText: (text: string) => words.push(text),
    fillRect: (x: number) => lines.push(x),
  };
  return { pen: made as unknown as CanvasRenderingContext2D, words, lines };
}

test('a clip says what was done to it, and nothing when nothing was', () => {
  const [plain, silent, lowered] = after(
    { type: 'fill-spans', ...of, spans: [{ ...span(100_000, 200_000), sound: { kind: 'silence' } }] },
    { type: 'level-spans', ...of, spans: [span(200_000, 300_000)], byDb: -6 },
  );
  expect([plain, silent, lowered].map((clip) => clipWords(clip!))).toEqual(['', 'silent', '−6 dB']);
  expect(clipWords({ ...lowered!, gainDb: 3, line: [{ frame: 0, gainDb: 0 }] })).toBe('+3 dB · line');
});

test('the line tells what was cut at a joint, in seconds; a split that changes nothing cuts nothing', () => {
  const clips = after(
    { type: 'cut-spans', ...of, spans: [span(100_000, 160_000)], close: true },
    { type: 'split-clips', ...of, frames: [300_000] },
  );
  expect(cutFrames(clips[0]!, clips[1]!)).toBe(60_000);
  expect(cutFrames(clips[1]!, clips[2]!)).toBe(0);
  const { pen: drawn, words } = pen();
  drawClips(drawn, 800, 24, view(), clips, new Set(), 48_000);
  expect(words).toEqual(['−1.25 s']);
});

test('strips show where clips meet, but not thousands of them', () => {
  const few = pen();
  drawEdges(few.pen, 100, view(), after({ type: 'split-clips', ...of, frames: [120_000, 240_000] }));
  expect(few.lines).toEqual([200, 400]);
  const many = pen();
  drawEdges(many.pen, 100, view(), after({ type: 'split-clips', ...of, frames: Array.from({ length: 2000 }, (_, i) => 200 * (i + 1)) }));
  expect(many.lines).toEqual([]);
});

test('a fade is taken hold of where it ends; a crossfade at its half, and only by the clip after it', () => {
  const clips = after(
    { type: 'cut-spans', ...of, spans: [span(100_000, 160_000)], close: true },
    { type: 'shape-clip', ...of, clipId: 'c1', shape: { fadeIn: { frames: 24_000, curve: 's' } } },
  );
  const faded = clips.map((clip, i) => (i === 1 ? { ...clip, fadeIn: { frames: 12_000, curve: 's' as const } } : clip));
  expect(fadeHandles(faded, 0, view())).toEqual({ inPx: 40 + HANDLE_PX, outPx: null });
  const { inPx, outPx } = fadeHandles(faded, 1, view());
  expect(inPx).toBeCloseTo((100_000 + 6000) / 600 + HANDLE_PX, 6);
  expect(outPx).toBeCloseTo(420_000 / 600 - HANDLE_PX, 6);
});
