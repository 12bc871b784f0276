import { statSync } from 'node:fs';
import { scratchFolder } from './testing/files.js';
import { runTool, StreamingTool } from './tools.js';

const files = scratchFolder();
afterAll(files.remove);

/** A tone that never ends, made by ffmpeg itself. */
const ENDLESS = ['-y', '-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=48000'];
const code = (work: Promise<unknown>): Promise<unknown> =>
  work.then(
    () => 'no error',
    (error: { code?: string }) => error.code ?? error,
  );

test('a program that wants more memory, time or space on the disk than it is given is ended, and that is said', async () => {
  // Half a gigabyte for one picture, of the 320 MB that are there: ffmpeg stands still over it.
  const large = ['-f', 'lavfi', '-i', 'color=s=16000x12000:r=1:d=1', '-f', 'null', '-'];
  expect(await code(runTool('ffmpeg', large, { memoryMiB: 320, stalledMs: 2000 }))).toBe('tool-limit');
  expect(await code(runTool('ffmpeg', [...ENDLESS, '-f', 'null', '-'], { cpuSeconds: 1 }))).toBe('tool-limit');
  expect(await code(runTool('ffmpeg', [...ENDLESS, '-f', 'wav', `file:${files.path('endless.wav')}`], { fileMiB: 2 }))).toBe('tool-limit');
  expect(statSync(files.path('endless.wav')).size).toBeLessThanOrEqual(2 << 20);
});

test('one that streams is ended when nothing comes for so long while it is waited for, not while its reader takes time', async () => {
  // Time is made: a busy machine is no program that stands still.
  jest.useFakeTimers({ doNotFake: ['nextTick', 'setImmediate', 'queueMicrotask', 'Date', 'performance'] });
  try {
    const silent = new StreamingTool('ffmpeg', ['-f', 'f32le', '-i', 'pipe:0', '-f', 'f32le', 'pipe:1'], { stalledMs: 60_000 });
    const nothing = silent.output().next();
    jest.advanceTimersByTime(60_001);
    expect((await nothing).done).toBe(true);
    expect(await silent.failure()).toMatchObject({ code: 'tool-limit' });

    const slowlyRead = new StreamingTool('ffmpeg', [...ENDLESS, '-t', '20', '-f', 'f32le', 'pipe:1'], { stalledMs: 60_000 });
    slowlyRead.input.end();
    let bytes = 0;
    for await (const part of slowlyRead.output()) {
      jest.advanceTimersByTime(600_000);
      bytes += part.length;
    }
    expect([bytes, await slowlyRead.failure()]).toEqual([4 * 20 * 48000, null]);
  } finally {
    jest.useRealTimers();
  }
});

test('what went wrong is told: a program that is not there, an error of its own, a wish that was taken back', async () => {
  expect(await code(runTool('no-such-program' as 'ffprobe', []))).toBe('ffmpeg-missing');
  await expect(runTool('ffprobe', ['-v', 'error', 'file:/no/such/file'])).rejects.toMatchObject({
    name: 'MediaError',
    code: 'decode-failed',
    said: expect.stringContaining('No such file'),
  });
  const wish = new AbortController();
  const work = code(runTool('ffmpeg', [...ENDLESS, '-f', 'null', '-'], { signal: wish.signal }));
  wish.abort();
  expect(await work).toBe('cancelled');
});
