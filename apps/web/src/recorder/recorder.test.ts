import { Intake } from './intake.js';
import type { RecorderReport, TakeReport } from './protocol.js';
import { Recorder } from './recorder.js';
import { Ring } from './ring.js';
import { Disk, Server } from './testing/disk-and-server.js';

const RATE_HZ = 48_000;
/** Every sample another number. */
const counted = (from: number, frames: number): Float32Array => Float32Array.from({ length: frames }, (_, n) => (from + n) / 2 ** 24);
const first = (samples: Float32Array): number => Math.round(samples[0]! * 2 ** 24);

function made(disk: Disk | null, server: Server) {
  const reports: RecorderReport[] = [];
  const recorder = new Recorder(disk, server, (report) => reports.push(structuredClone(report)));
  const last = (): TakeReport => reports.flatMap((report) => (report.type === 'take' ? [report.take] : [])).pop()!;
  let at = 0;
  const feed = (seconds: number): void => {
    for (const end = at + seconds * RATE_HZ; at < end; at += 480) recorder.take({ channels: [counted(at, 480)] });
  };
  return { recorder, reports, last, feed };
}
const settle = async (ms = 20): Promise<void> => {
  await jest.advanceTimersByTimeAsync(ms);
};
const take = { id: 'take-1', name: 'One', sittingId: 's', device: 'd' };

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

test('what is recorded is on the disk and on the server, with what came before the key, and every sample once', async () => {
  const [disk, server] = [new Disk(), new Server()];
  const { recorder, feed, last } = made(disk, server);
  recorder.setSource(RATE_HZ, 'first');
  feed(3);
  void recorder.command({ type: 'start', take, preRollSeconds: 2 });
  // What comes while the file is opened is not lost.
  feed(0.1);
  await settle();
  feed(1);
  await settle();
  expect(last()).toMatchObject({ state: 'recording', keepProblem: null, sendProblem: null });
  expect(last().keptFrames).toBeGreaterThan(2.8 * RATE_HZ);
  await recorder.command({ type: 'mark', kind: 'good' });
  feed(0.5);
  await recorder.command({ type: 'stop' });
  await settle();
  const { samples, end, start } = server.takes.get('take-1')!;
  expect(start).toMatchObject({ preRollFrames: 2 * RATE_HZ, sampleRateHz: RATE_HZ, channels: 1 });
  expect(samples).toHaveLength(3.6 * RATE_HZ);
  expect(samples.every((x, n) => Math.round(x * 2 ** 24) === RATE_HZ + n)).toBe(true);
  expect(end).toMatchObject({ frames: samples.length, marks: [{ kind: 'good' }], gaps: [] });
  expect(last().state).toBe('done');
  // It is there; this machine need not keep it.
  expect(disk.files.size).toBe(0);
});

test('a server that is down: it is kept here, told, and sent when it is back', async () => {
  const [disk, server] = [new Disk(), new Server()];
  const { recorder, feed, last } = made(disk, server);
  recorder.setSource(RATE_HZ, 'first');
  server.down = true;
  await recorder.command({ type: 'start', take, preRollSeconds: 0 });
  feed(2);
  await recorder.command({ type: 'stop' });
  await settle(5000);
  expect(last()).toMatchObject({ state: 'sending', sentFrames: 0, keptFrames: 2 * RATE_HZ });
  expect(last().sendProblem).toMatch(/fetch|reached/);
  server.down = false;
  await settle(9000);
  expect(server.takes.get('take-1')!.samples).toHaveLength(2 * RATE_HZ);
  expect(last()).toMatchObject({ state: 'done', sendProblem: null });
});

test('a server that lost what it had is given all of it again', async () => {
  const [disk, server] = [new Disk(), new Server()];
  const { recorder, feed } = made(disk, server);
  recorder.setSource(RATE_HZ, 'first');
  await recorder.command({ type: 'start', take, preRollSeconds: 0 });
  feed(1);
  await settle();
  server.takes.clear();
  feed(1);
  await settle(2000);
  expect(server.takes.get('take-1')!.samples).toHaveLength(2 * RATE_HZ);
});

test('a page that is killed loses half a second at most; the next one offers what is left, and brings it in', async () => {
  const [disk, server, unreachable] = [new Disk(), new Server(), new Server()];
  unreachable.down = true;
  const killed = made(disk, unreachable);
  killed.recorder.setSource(RATE_HZ, 'first');
  await killed.recorder.command({ type: 'start', take, preRollSeconds: 0 });
  killed.feed(4.13);
  const kept = disk.files.get('take-1')!.samples.length;
  expect(4.13 * RATE_HZ - kept).toBeLessThan(0.5 * RATE_HZ);
  const next = made(disk, server);
  await next.recorder.lookBack();
  expect(next.reports.pop()).toMatchObject({ type: 'left', takes: [{ id: 'take-1', name: 'One', frames: kept }] });
  await next.recorder.command({ type: 'finish', id: 'take-1' });
  await settle();
  expect(server.takes.get('take-1')).toMatchObject({ end: { frames: kept } });
  expect(server.takes.get('take-1')!.samples).toHaveLength(kept);
  expect(disk.files.size).toBe(0);
});

test('what another window still holds is nobody’s to offer; once it is let go of it is found, and what was thrown away is not found again', async () => {
  const [disk, server] = [new Disk(), new Server()];
  const killed = made(disk, server);
  killed.recorder.setSource(RATE_HZ, 'first');
  await killed.recorder.command({ type: 'start', take, preRollSeconds: 0 });
  killed.feed(1);
  disk.locked.add('take-1');
  const next = made(disk, server);
  await next.recorder.lookBack();
  expect(next.reports.pop()).toMatchObject({ type: 'left', takes: [] });
  disk.locked.clear();
  await next.recorder.lookBack();
  expect(next.reports.pop()).toMatchObject({ type: 'left', takes: [{ id: 'take-1' }] });
  const forgotten = next.recorder.command({ type: 'forget', id: 'take-1' });
  await next.recorder.lookBack();
  expect(next.reports.pop()).toMatchObject({ type: 'left', takes: [] });
  await forgotten;
  expect(disk.files.size).toBe(0);
});

test('what somebody else recorded here is offered to nobody but them, and not sent in another name', async () => {
  const [disk, server, unreachable] = [new Disk(), new Server(), new Server()];
  unreachable.down = true;
  const killed = made(disk, unreachable);
  await killed.recorder.setPerson('ann');
  killed.recorder.setSource(RATE_HZ, 'first');
  await killed.recorder.command({ type: 'start', take, preRollSeconds: 0 });
  killed.feed(1);
  await killed.recorder.command({ type: 'stop' });
  await killed.recorder.command({ type: 'start', take: { ...take, id: 'take-2' }, preRollSeconds: 0 });
  killed.feed(1);
  const next = made(disk, server);
  const left = (): RecorderReport | undefined => next.reports.filter(({ type }) => type === 'left').pop();
  for (const personId of ['', 'ben']) {
    await next.recorder.setPerson(personId);
    expect(left()).toMatchObject({ takes: [] });
  }
  await settle();
  expect(server.takes.size).toBe(0);
  await next.recorder.setPerson('ann');
  expect(left()).toMatchObject({ takes: [{ id: 'take-2' }] });
  await settle();
  expect([...server.takes.keys()]).toEqual(['take-1']);
  // Of what is left of hers nothing is told to the next one.
  await next.recorder.setPerson('ben');
  expect(left()).toMatchObject({ takes: [] });
});

test('what was ended and not sent before the page was closed is sent by the next one without asking', async () => {
  const [disk, server] = [new Disk(), new Server()];
  server.down = true;
  const { recorder, feed } = made(disk, server);
  recorder.setSource(RATE_HZ, 'first');
  await recorder.command({ type: 'start', take, preRollSeconds: 0 });
  feed(1);
  await recorder.command({ type: 'stop' });
  server.down = false;
  const next = made(disk, server);
  await next.recorder.lookBack();
  await settle();
  expect(server.takes.get('take-1')!.end).toMatchObject({ frames: RATE_HZ });
});

test('what is thrown away is gone here and there; a take without a sample is none', async () => {
  const [disk, server] = [new Disk(), new Server()];
  const killed = made(disk, server);
  killed.recorder.setSource(RATE_HZ, 'first');
  await killed.recorder.command({ type: 'start', take, preRollSeconds: 0 });
  killed.feed(1);
  await settle();
  const next = made(disk, server);
  await next.recorder.lookBack();
  await next.recorder.command({ type: 'forget', id: 'take-1' });
  expect([disk.files.size, server.takes.size]).toEqual([0, 0]);
  next.recorder.setSource(RATE_HZ, 'first');
  await next.recorder.command({ type: 'start', take: { ...take, id: 'take-2' }, preRollSeconds: 0 });
  await next.recorder.command({ type: 'stop' });
  await settle();
  expect([disk.files.size, server.takes.size, next.last().state]).toEqual([0, 0, 'done']);
});

test('a full disk is told; what does not fit is held until it is sent, and nothing is missing', async () => {
  const [disk, server] = [new Disk(), new Server()];
  disk.mostSamples = 1.5 * RATE_HZ;
  const { recorder, feed, last } = made(disk, server);
  recorder.setSource(RATE_HZ, 'first');
  server.down = true;
  await recorder.command({ type: 'start', take, preRollSeconds: 0 });
  feed(3);
  expect(last().keepProblem).toMatch(/full.*sent to the server/);
  server.down = false;
  await settle(9000);
  feed(1);
  await recorder.command({ type: 'stop' });
  await settle(3000);
  const { samples } = server.takes.get('take-1')!;
  expect(samples).toHaveLength(4 * RATE_HZ);
  expect(samples.every((x, n) => Math.round(x * 2 ** 24) === n)).toBe(true);
});

test('a browser that keeps nothing: it is said, and sent', async () => {
  const server = new Server();
  const { recorder, feed, last } = made(null, server);
  recorder.setSource(RATE_HZ, 'first');
  await recorder.command({ type: 'start', take, preRollSeconds: 0 });
  feed(1);
  expect(last().keepProblem).toMatch(/keeps nothing/);
  await recorder.command({ type: 'stop' });
  await settle();
  expect(server.takes.get('take-1')!.samples).toHaveLength(RATE_HZ);
});

test('a microphone that is unplugged ends the take and keeps it', async () => {
  const [disk, server] = [new Disk(), new Server()];
  const { recorder, feed, reports } = made(disk, server);
  recorder.setSource(RATE_HZ, 'first');
  await recorder.command({ type: 'start', take, preRollSeconds: 0 });
  feed(1);
  recorder.sourceGone();
  await settle();
  expect(server.takes.get('take-1')!.end).toMatchObject({ frames: RATE_HZ });
  expect(reports.some(({ type }) => type === 'source-ended')).toBe(true);
});

describe('what comes in', () => {
  const block = (atFrame: number, frames = 480, jitterMicroseconds = 0) => ({
    channels: [counted(atFrame, frames), counted(-atFrame, frames)],
    atMicroseconds: (atFrame / RATE_HZ) * 1e6 + 5000 + jitterMicroseconds,
  });

  /** Blocks of 10 ms, each with a stamp that is off by so many microseconds; the holes that are told. */
  const holes = (intake: Intake, count: number, offBy: (i: number) => number) =>
    Array.from({ length: count }, (_, i) => intake.take(block(480 * i, 480, offBy(i))).gap).filter((gap) => gap !== null);

  test('is counted; stamps that jitter are no holes, nor are some that come late on a busy machine', () => {
    const intake = new Intake(RATE_HZ, 'first');
    const late = (i: number): number => (i % 90 < 40 && i > 60 ? 30_000 : 0) + 300 * Math.sin(i);
    expect(holes(intake, 1000, late)).toEqual([]);
    expect([intake.frames, intake.lostFrames]).toEqual([480_000, 0]);
  });

  test('a hole is told once and where it is; what came is as it came', () => {
    const intake = new Intake(RATE_HZ, 'first');
    // Two blocks are missing from the 200th on.
    expect(holes(intake, 500, (i) => (i >= 200 ? 20_000 : 0))).toEqual([{ frame: 200 * 480, frames: 960 }]);
    expect([intake.frames, intake.lostFrames]).toEqual([240_000, 960]);
    expect(first(intake.take(block(77)).sound[0]!)).toBe(77);
  });

  test('two clocks that drift apart make no hole', () => {
    const intake = new Intake(RATE_HZ, 'first');
    // 200 parts per million, for five minutes.
    for (let i = 0; i < 30_000; i++) expect(intake.take({ ...block(480 * i), atMicroseconds: 10_000 * i * 1.0002 }).gap).toBeNull();
  });

  test('the channel that is recorded', () => {
    const of = (channel: 'first' | 'second' | 'both') => new Intake(RATE_HZ, channel).take(block(7)).sound.map(first);
    expect([of('first'), of('second'), of('both')]).toEqual([[7], [-7], [7, -7]]);
    expect(new Intake(RATE_HZ, 'second').take({ channels: [counted(3, 10)] }).sound.map(first)).toEqual([3]);
  });

  test('the latest of it is at hand', () => {
    const ring = new Ring(100, 1);
    ring.push(counted(0, 70));
    expect(ring.latest(100)).toEqual(counted(0, 70));
    ring.push(counted(70, 70));
    expect(ring.latest(30)).toEqual(counted(110, 30));
    ring.push(counted(140, 250));
    expect(ring.latest(500)).toEqual(counted(290, 100));
  });
});
