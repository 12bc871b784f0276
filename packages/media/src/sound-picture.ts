import { spawn } from 'node:child_process';
import { COARSE_ROWS, CoarseSpectrogram, type KernelModule } from '@euphonos/dsp';
import { decodeSound, newReport } from './decode.js';
import { MediaError } from './errors.js';
import { probeSound } from './probe.js';

type Colour = readonly [red: number, green: number, blue: number];
/** The colours of the page: paper, and the ink of a source or of a result. */
const PAPER: Colour = [251, 248, 241];
export const SOURCE_INK: Colour = [43, 42, 40];
export const RESULT_INK: Colour = [14, 90, 90];
/** Half decibels from -130 dBFS: bare paper at -100, full ink 70 dB above. */
const [PAPER_STEP, INK_STEPS] = [60, 140];
const SIZE = [1520, 300] as const;

/** Coarse spectrogram of a file (see `CoarseSpectrogram`). */
export async function columnsOfFile(path: string, kernels: KernelModule): Promise<Uint8Array> {
  const facts = await probeSound(path);
  const maker = new CoarseSpectrogram(kernels, facts.sampleRateHz);
  for await (const { channels, frames } of decodeSound(path, facts, {}, newReport())) maker.process(channels, frames);
  return maker.finish();
}

/** Columns of a coarse spectrogram as a PNG of 1520 × 300. @throws {MediaError} `ffmpeg-missing`, `encode-failed` */
export async function columnsAsPng(columns: Uint8Array, ink: Colour): Promise<Buffer> {
  const width = Math.max(1, Math.floor(columns.length / COARSE_ROWS));
  const pixels = Buffer.alloc(width * COARSE_ROWS * 3);
  for (let x = 0; x < width; x++)
    for (let row = 0; row < COARSE_ROWS; row++) {
      const share = Math.max(0, Math.min(1, ((columns[x * COARSE_ROWS + row] ?? 0) - PAPER_STEP) / INK_STEPS));
      const at = 3 * ((COARSE_ROWS - 1 - row) * width + x);
      for (let c = 0; c < 3; c++) pixels[at + c] = Math.round(PAPER[c]! + share * (ink[c]! - PAPER[c]!));
    }
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${width}x${COARSE_ROWS}`, '-i', 'pipe:0'];
  const child = spawn(
    'ffmpeg',
    ['-v', 'error', ...raw, '-vf', `scale=${SIZE.join(':')}:flags=area`, '-frames:v', '1', '-f', 'image2pipe', '-c:v', 'png', 'pipe:1'],
    {
      stdio: ['pipe', 'pipe', 'pipe'],
    },
  );
  child.stdin.on('error', () => undefined);
  child.stdin.end(pixels);
  const parts: Buffer[] = [];
  let said = '';
  child.stdout.on('data', (part: Buffer) => parts.push(part));
  child.stderr.setEncoding('utf8').on('data', (text: string) => (said += text));
  const code = await new Promise<number | null>((resolve, reject) => {
    child.on('error', (error: NodeJS.ErrnoException) =>
      reject(error.code === 'ENOENT' ? new MediaError('ffmpeg-missing', 'ffmpeg is not installed; it is a Debian package.') : error),
    );
    child.on('close', resolve);
  });
  if (code !== 0) throw new MediaError('encode-failed', `The picture could not be written: ${said.split('\n')[0]}.`);
  return Buffer.concat(parts);
}

export const asDataUrl = (png: Buffer): string => `data:image/png;base64,${png.toString('base64')}`;
