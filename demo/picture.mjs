// The moving picture of the demo: the guide beside the mill's wheel, drawn here. Her mouth follows her voice, so that an eye can tell
// whether sound and picture are together. See make-demo.mjs.
import { execFileSync, spawn } from 'node:child_process';

const [WIDTH, HEIGHT, FRAMES_A_SECOND] = [640, 360, 25];

/** Shapes of one colour on an RGB picture. */
class Canvas {
  bytes = new Uint8Array(WIDTH * HEIGHT * 3);

  #row(y, from, to, [r, g, b]) {
    if (y < 0 || y >= HEIGHT) return;
    for (let x = Math.max(0, Math.round(from)); x < Math.min(WIDTH, Math.round(to)); x++) {
      const at = 3 * (y * WIDTH + x);
      this.bytes[at] = r;
      this.bytes[at + 1] = g;
      this.bytes[at + 2] = b;
    }
  }

  box(x, y, width, height, colour) {
    for (let row = Math.round(y); row < Math.round(y + height); row++) this.#row(row, x, x + width, colour);
  }

  oval(x, y, radiusX, radiusY, colour) {
    for (let row = Math.ceil(y - radiusY); row <= y + radiusY; row++) {
      const half = radiusX * Math.sqrt(Math.max(0, 1 - ((row - y) / radiusY) ** 2));
      this.#row(row, x - half, x + half, colour);
    }
  }

  /** A convex shape. */
  shape(points, colour) {
    const rows = points.map(([, y]) => y);
    for (let row = Math.ceil(Math.min(...rows)); row <= Math.max(...rows); row++) {
      const crossings = points.flatMap(([x, y], i) => {
        const [nextX, nextY] = points[(i + 1) % points.length];
        return y <= row === nextY <= row ? [] : [x + ((row - y) / (nextY - y)) * (nextX - x)];
      });
      if (crossings.length > 1) this.#row(row, Math.min(...crossings), Math.max(...crossings), colour);
    }
  }
}

/** What does not move: sky, bank, mill. */
function scene(canvas) {
  for (let y = 0; y < 230; y++) canvas.box(0, y, WIDTH, 1, [206 + y / 12, 214 + y / 16, 208 - y / 10]);
  canvas.oval(120, 240, 260, 50, [150, 160, 128]);
  canvas.oval(520, 250, 300, 60, [138, 150, 118]);
  canvas.box(330, 90, 170, 170, [158, 128, 98]);
  canvas.shape(
    [
      [310, 96],
      [415, 30],
      [520, 96],
    ],
    [96, 72, 60],
  );
  canvas.box(360, 120, 34, 44, [70, 60, 54]);
  canvas.box(430, 120, 34, 44, [70, 60, 54]);
  canvas.box(0, 258, WIDTH, 102, [92, 122, 124]);
  canvas.shape(
    [
      [0, 262],
      [260, 262],
      [200, 360],
      [0, 360],
    ],
    [120, 132, 96],
  );
}

function wheel(canvas, angle) {
  const [x, y, radius] = [420, 232, 72];
  canvas.oval(x, y, radius + 7, radius + 7, [74, 56, 44]);
  canvas.oval(x, y, radius - 5, radius - 5, [128, 112, 92]);
  for (let spoke = 0; spoke < 12; spoke++) {
    const at = angle + (spoke * Math.PI) / 6;
    const [cos, sin] = [Math.cos(at), Math.sin(at)];
    const side = (r, w) => [x + r * cos - w * sin, y + r * sin + w * cos];
    canvas.shape([side(0, -3), side(radius + 14, -3), side(radius + 14, 3), side(0, 3)], [74, 56, 44]);
    canvas.shape([side(radius + 4, -9), side(radius + 18, -9), side(radius + 18, 9), side(radius + 4, 9)], [88, 66, 50]);
  }
  canvas.oval(x, y, 10, 10, [60, 46, 38]);
}

function water(canvas, seconds) {
  for (let i = 0; i < 46; i++) {
    const x = ((i * 83 + seconds * (24 + (i % 5) * 9)) % (WIDTH + 60)) - 30;
    const y = 278 + ((i * 37) % 78);
    if (x > 250 - (y - 262) * 0.6) canvas.box(x, y, 26 - (i % 4) * 4, 2, [150, 178, 176]);
  }
}

/** @param open how far the mouth is open, 0 … 1 */
function guide(canvas, seconds, open) {
  const sway = 1.5 * Math.sin(seconds * 1.1);
  canvas.shape(
    [
      [82, 360],
      [100, 214],
      [166, 214],
      [186, 360],
    ],
    [136, 62, 44],
  );
  canvas.box(122 + sway, 184, 22, 34, [206, 168, 140]);
  canvas.oval(133 + sway, 154, 34, 42, [220, 182, 152]);
  canvas.oval(133 + sway, 122, 37, 22, [64, 50, 46]);
  canvas.box(96 + sway, 122, 12, 62, [64, 50, 46]);
  canvas.oval(121 + sway, 150, 3.5, 4, [44, 36, 34]);
  canvas.oval(147 + sway, 150, 3.5, 4, [44, 36, 34]);
  canvas.oval(134 + sway, 176, 9, 1.5 + 9 * open, [110, 40, 44]);
}

/** The level of each frame's sound, 0 … 1 of the loudest, on a scale of 24 dB. */
function openings(sound, rateHz) {
  const step = rateHz / FRAMES_A_SECOND;
  const count = Math.ceil(sound.length / step);
  const powers = Array.from({ length: count }, (_, i) => {
    const part = sound.subarray(Math.round(i * step), Math.round((i + 1) * step));
    // Wind is below the voice: what changes from sample to sample is hers.
    return part.reduce((sum, x, n) => sum + (x - (part[n - 1] ?? x)) ** 2, 0) / Math.max(1, part.length);
  });
  const most = Math.max(...powers);
  return powers.map((power) => Math.max(0, 1 + (10 * Math.log10(power / most + 1e-9)) / 24));
}

/** Draws the picture for a sound file and writes both as a QuickTime file: H.264, and the sound as it is in 16 bits. */
export async function writePicture(soundFile, file) {
  const rateHz = 48_000;
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', soundFile, '-ac', '1', '-ar', String(rateHz), '-f', 'f32le', '-'], {
    maxBuffer: 1 << 28,
  });
  const open = openings(new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length)), rateHz);
  const still = new Canvas();
  scene(still);
  const input = ['-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${WIDTH}x${HEIGHT}`, '-r', String(FRAMES_A_SECOND), '-i', 'pipe:0'];
  const codec = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '26', '-pix_fmt', 'yuv420p', '-bf', '2', '-c:a', 'pcm_s16le'];
  const child = spawn(
    'ffmpeg',
    ['-v', 'error', '-y', ...input, '-i', soundFile, '-map', '0:v', '-map', '1:a', ...codec, '-f', 'mov', file],
    {
      stdio: ['pipe', 'ignore', 'inherit'],
    },
  );
  const ended = new Promise((resolve, reject) => child.on('error', reject).on('close', resolve));
  const canvas = new Canvas();
  for (const [i, opening] of open.entries()) {
    const seconds = i / FRAMES_A_SECOND;
    canvas.bytes.set(still.bytes);
    wheel(canvas, seconds * 0.7);
    water(canvas, seconds);
    guide(canvas, seconds, opening);
    if (!child.stdin.write(Buffer.from(canvas.bytes))) await new Promise((resolve) => child.stdin.once('drain', resolve));
  }
  child.stdin.end();
  if ((await ended) !== 0) throw new Error('The picture of the demo could not be written.');
}
