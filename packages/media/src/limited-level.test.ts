import { join } from 'node:path';
import { LevelMeter, LoudnessMeter, TruePeakLimiter } from '@euphonos/dsp';
import { AlignedRun } from '@euphonos/engine';
import { joined, kernels, noise, silence } from '../../dsp/src/testing/signals.js';
import { decodeSound, newReport } from './decode.js';
import { levelWhenLimited, type Work } from './limited-level.js';
import { probeSound } from './probe.js';
import { RawWriter } from './raw-file.js';
import { scratchFolder } from './testing/files.js';
import { LevelOfWork } from './work-level.js';

const files = scratchFolder();
afterAll(files.remove);
const CEILING_DBTP = -1.05;

async function workOf(name: string, channels: readonly Float32Array[]): Promise<Work> {
  const context = { sampleRateHz: 48_000, channels: channels.length, kernels };
  const raw = new RawWriter(files.path(name));
  const level = new LevelOfWork(context);
  for (let at = 0; at < channels[0]!.length; at += 32_768) {
    const block = channels.map((x) => x.slice(at, at + 32_768));
    level.process(block, block[0]!.length);
    await raw.write({ channels: block, frames: block[0]!.length });
  }
  await raw.finish();
  return { context, raw, level: level.finish() };
}

/** The whole of it, limited and measured. */
function whole({ context }: Work, channels: readonly Float32Array[], gainDb: number): { lufs: number; rms: number; limitedDb: number } {
  const levels = new LevelMeter(48_000, channels.length);
  const meter = new LoudnessMeter(kernels, 48_000, channels.length);
  const limiter = new TruePeakLimiter(context, { gainDb, ceilingDbtp: CEILING_DBTP });
  const run = new AlignedRun(limiter, channels.length, (out, _, frames) => {
    meter.process(out, frames);
    levels.process(out, frames);
  });
  run.push(channels, channels[0]!.length);
  run.finish();
  return { lufs: meter.integratedLufs!, rms: levels.rmsDbfs, limitedDb: limiter.mostReductionDb };
}

async function narrator(): Promise<Float32Array> {
  const path = join(__dirname, '../../../demo/narrator.flac');
  const parts: Float32Array[] = [];
  for await (const { channels, frames } of decodeSound(path, await probeSound(path), {}, newReport()))
    parts.push(channels[0]!.slice(0, frames));
  return joined(...parts);
}

test('what a limiter leaves of loudness and RMS level is found from the blocks that it touches, within 0.03 LU of the whole', async () => {
  const speech = await narrator();
  for (const channels of [[speech], [speech, speech.map((x, n) => 0.5 * speech[Math.max(0, n - 30_000)]!)]]) {
    const work = await workOf(`work-${channels.length}`, channels);
    for (const overDb of [1, 4, 8, 14]) {
      const gainDb = overDb - work.level.truePeakDbtp!;
      const { lufs, rms, limitedDb } = whole(work, channels, gainDb);
      expect(limitedDb).toBeGreaterThan(overDb - 0.5);
      const found = await levelWhenLimited(work, gainDb, CEILING_DBTP, () => undefined);
      expect(Math.abs(found.integratedLufs! - lufs)).toBeLessThan(0.03);
      expect(Math.abs(found.rmsDbfs! - rms)).toBeLessThan(0.05);
    }
  }
});

test('blocks in which nothing comes near the ceiling are not read', async () => {
  const work = await workOf('quiet', [joined(noise(-40, 4), noise(-6, 0.1), noise(-40, 4), silence(1))]);
  let read = 0;
  await levelWhenLimited(work, 3, CEILING_DBTP, () => read++);
  expect(read).toBeGreaterThan(0);
  expect(read).toBeLessThanOrEqual(2);
});
