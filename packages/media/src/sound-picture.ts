import { ColumnMaker, type KernelModule } from '@euphonos/dsp';
import { decodeSound, newReport } from './decode.js';
import { MediaError } from './errors.js';
import { probeSound } from './probe.js';
import { StreamingTool, ToolFailure } from './tools.js';

type Colour = readonly [red: number, green: number, blue: number];
/** The colours of the page: paper, and the ink of a source or of a result. */
const PAPER: Colour = [251, 248, 241];
export const SOURCE_INK: Colour = [43, 42, 40];
export const RESULT_INK: Colour = [14, 90, 90];
/** Half decibels from -130 dBFS: bare paper at -92, full ink 62 dB above. */
const [PAPER_STEP, INK_STEPS] = [76, 124];
const [WIDTH, ROWS] = [1520, 220];
const FRAME_SIZE = 4096;
const LEAST_HOP = 512;

/** Columns of a spectrogram of a file, all channels mixed: as many as a picture is wide, or fewer; each from the highest row down. */
async function columnsOfFile(path: string, kernels: KernelModule): Promise<readonly Uint8Array[]> {
  const facts = await probeSound(path);
  const hop = Math.max(LEAST_HOP, Math.ceil(((facts.statedSeconds ?? 3600) * facts.sampleRateHz) / WIDTH));
  const maker = new ColumnMaker(kernels, facts.sampleRateHz, FRAME_SIZE, ROWS, 'log');
  const columns: Uint8Array[] = [];
  const ring = new Float32Array(FRAME_SIZE);
  const frame = new Float32Array(FRAME_SIZE);
  let at = 0;
  for await (const { channels, frames } of decodeSound(path, facts, {}, newReport()))
    for (let n = 0; n < frames; n++) {
      let sum = 0;
      for (const samples of channels) sum += samples[n]!;
      ring[at % FRAME_SIZE] = sum / channels.length;
      if (++at % hop !== 0) continue;
      const start = at % FRAME_SIZE;
      frame.set(ring.subarray(start));
      frame.set(ring.subarray(0, start), FRAME_SIZE - start);
      const column = new Uint8Array(ROWS);
      maker.column(frame, 0, column, 0);
      columns.push(column);
    }
  return columns;
}

/** A spectrogram of a sound file as a PNG, on paper. @throws {MediaError} `ffmpeg-missing`, `encode-failed`, or as decoding does */
export async function soundAsPng(path: string, ink: Colour, kernels: KernelModule): Promise<Buffer> {
  const columns = await columnsOfFile(path, kernels);
  const width = Math.max(1, columns.length);
  const pixels = Buffer.alloc(width * ROWS * 3);
  for (let row = 0; row < ROWS; row++)
    for (let x = 0; x < width; x++) {
      const share = Math.max(0, Math.min(1, ((columns[x]?.[row] ?? 0) - PAPER_STEP) / INK_STEPS));
      for (let c = 0; c < 3; c++) pixels[3 * (row * width + x) + c] = Math.round(PAPER[c]! + share * (ink[c]! - PAPER[c]!));
    }
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${width}x${ROWS}`, '-i', 'pipe:0'];
  const shrunk = ['-vf', `scale=${WIDTH}:${ROWS}`, '-frames:v', '1', '-f', 'image2pipe', '-c:v', 'png', 'pipe:1'];
  const tool = new StreamingTool('ffmpeg', ['-v', 'error', ...raw, ...shrunk]);
  tool.input.end(pixels);
  const parts: Buffer[] = [];
  for await (const part of tool.output()) parts.push(part);
  const failure = await tool.failure();
  if (failure instanceof ToolFailure) throw new MediaError('encode-failed', `The picture could not be written: ${failure.said}.`);
  if (failure) throw failure;
  return Buffer.concat(parts);
}

export const asDataUrl = (png: Buffer): string => `data:image/png;base64,${png.toString('base64')}`;
