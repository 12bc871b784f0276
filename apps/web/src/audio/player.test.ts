import { applyEdit, CHUNK_FRAMES, createDocument } from '@euphonos/engine';
import { soundOf } from './arranged.js';
import { chain, clock, FakeNode, fakeSound, player, settle, started } from './testing/fake-sound.js';

jest.mock('./kernels.js', () => ({ loadKernels: async () => ({}) }));
beforeEach(fakeSound);
// Time is made: what is waited for is over when it is, however busy the machine.
beforeEach(() => void jest.useFakeTimers({ advanceTimers: true }));
afterEach(() => void jest.useRealTimers());

test('what was set before the first play is told at the start, then it plays from the cursor', async () => {
  const made = player();
  made.setLane('removed');
  made.setProfile(null, chain);
  const later = { treatments: [{ kind: 'gate' as const, bypassed: false }] };
  made.setChain(later);
  made.seek(5000);
  const { node } = await started(made);
  expect(node.told.filter(({ type }) => type !== 'chunk').map(({ type }) => type)).toEqual(['lane', 'profile', 'chain', 'play']);
  expect(node.told.flatMap((command) => ('spec' in command ? [command.spec] : []))).toEqual([later, later]);
  expect(node.plays).toEqual([5000]);
});

test('a jump while the sound is still starting counts; a stop does too', async () => {
  const made = player();
  const play = made.play();
  await settle();
  expect(made.playing).toBe(true);
  made.seek(7000);
  clock.letStart();
  await play;
  expect(FakeNode.all[0]!.plays).toEqual([7000]);

  const other = player();
  const begun = other.play();
  await settle();
  other.stop();
  clock.letStart();
  await begun;
  expect(FakeNode.all[1]!.plays).toEqual([]);
  expect(other.playing).toBe(false);
});

test('a jump right after play, before any report, is sent and shown at once', async () => {
  const { made, node } = await started();
  made.seek(90_000);
  expect(node.plays).toEqual([0, 90_000]);
  expect(made.frame).toBe(90_000);
});

test('reports from before a jump move nothing and end nothing', async () => {
  const { made, node } = await started();
  node.report({ frame: 1000 });
  made.seek(900_000);
  node.report({ frame: 1500, plays: 1 });
  node.report({ frame: 1600, plays: 2, leaving: true });
  node.report({ status: 'stopped', frame: 0, plays: 1 });
  expect([made.frame, made.playing]).toEqual([900_000, true]);
  node.report({ frame: 900_100 });
  expect(made.frame).toBe(900_100);
});

test('the end of the recording ends it, and the playhead is where play started', async () => {
  const { made, node } = await started();
  node.report({ status: 'stopped', frame: 40 * CHUNK_FRAMES });
  expect([made.playing, made.frame, made.meters.rmsDbfs]).toEqual([false, 0, -Infinity]);
});

test('between reports the frame runs with the audio clock, round a loop, but not on for ever', async () => {
  const { made, node } = await started();
  node.report({ frame: 48_000, contextSeconds: 1 });
  clock.seconds = 1.1;
  expect(made.frame).toBe(52_800);
  clock.seconds = 9;
  expect(made.frame).toBe(60_000);
  made.setLoop({ startFrame: 40_000, endFrame: 50_000 });
  clock.seconds = 1.1;
  expect(made.frame).toBe(42_800);
});

test('samples of the old place stay until the monitor has left it', async () => {
  const { made, node } = await started();
  await settle();
  node.report({ frame: 1000 });
  await settle();
  const dropped = () => node.told.filter(({ type }) => type === 'drop').length;
  made.seek(30 * CHUNK_FRAMES);
  await settle();
  node.report({ frame: 1200, leaving: true });
  expect(dropped()).toBe(0);
  node.report({ frame: 30 * CHUNK_FRAMES + 10 });
  expect(dropped()).toBeGreaterThan(0);
});

test('an error in the audio thread is told, and the next play starts anew with all that was set', async () => {
  const troubles: unknown[] = [];
  const { made, node } = await started(player(troubles));
  made.setLane('source');
  node.report({ frame: 2000 });
  node.onprocessorerror();
  expect(String(troubles[0])).toContain('Your work is safe; play again.');
  expect(made.playing).toBe(false);
  const { node: next } = await started(made);
  expect(next).not.toBe(node);
  expect(next.told.filter(({ type }) => type !== 'chunk').map(({ type }) => type)).toEqual(['lane', 'play']);
});

describe('a first part that cannot run in the audio clock', () => {
  const clicks = (sensitivity: number) => ({
    kind: 'clicks' as const,
    bypassed: false,
    id: 'c',
    sensitivity,
    longestMs: 4,
    exceptions: [],
  });
  const gate = { kind: 'gate' as const, bypassed: false, id: 'g' };
  const chains = (node: FakeNode) =>
    node.told.flatMap((command) =>
      command.type === 'chain' ? [[command.prepared, command.spec.treatments.map(({ kind }) => kind).join()]] : [],
    );
  const chunks = (node: FakeNode, number: number) =>
    node.told.filter((command) => command.type === 'chunk' && command.store === number).length;

  test('is rendered chunk by chunk, and the monitor is told where it is', async () => {
    const { made, node } = await started();
    made.setChain({ treatments: [gate] });
    made.setChain({ treatments: [clicks(50), gate] });
    await jest.advanceTimersByTimeAsync(250);
    await settle();
    expect(chains(node)).toEqual([
      [0, 'gate'],
      [2, 'clicks,gate'],
    ]);
    expect(chunks(node, 2)).toBeGreaterThan(1);
  });

  test('while its control moves nothing is rendered; controls after it move at once', async () => {
    const { made, node } = await started();
    for (let sensitivity = 40; sensitivity < 60; sensitivity++) made.setChain({ treatments: [clicks(sensitivity), gate] });
    expect(chains(node)).toEqual([]);
    await jest.advanceTimersByTimeAsync(250);
    expect(chains(node)).toEqual([[2, 'clicks,gate']]);
    made.setChain({ treatments: [clicks(59), { ...gate, openDb: -30 }] });
    expect(chains(node)).toEqual([
      [2, 'clicks,gate'],
      [2, 'clicks,gate'],
    ]);
  });

  test('a profile that comes while a switch is waiting has the last word', async () => {
    const { made, node } = await started();
    made.setChain({ treatments: [clicks(50)] });
    made.setProfile(null, { treatments: [gate] });
    await jest.advanceTimersByTimeAsync(250);
    expect(node.told.filter(({ type }) => type === 'profile' || type === 'chain').at(-1)).toMatchObject({
      type: 'profile',
      prepared: 0,
      spec: { treatments: [{ kind: 'gate' }] },
    });
    expect(chains(node)).toEqual([]);
  });
});

describe('other clips', () => {
  const length = 40 * CHUNK_FRAMES;
  const recorded = createDocument({ id: 'r', name: 'n', lengthFrames: length, sampleRateHz: 48_000, channels: 1 });
  const of = { trackId: 'track-1' };
  const cut = applyEdit(recorded, { type: 'cut-spans', ...of, spans: [{ startFrame: 0, endFrame: 100_000 }], close: true });
  const sources = (node: FakeNode) => node.told.flatMap((command) => (command.type === 'source' ? [command] : []));

  test('go on with the sound that was heard, from a store of their own', async () => {
    const { made, node } = await started();
    node.report({ frame: 300_000 });
    made.setSound(soundOf(cut.tracks[0]!), chain);
    expect(sources(node)).toMatchObject([{ frame: 200_000, source: { store: 2, lengthFrames: length - 100_000 } }]);
    expect(made.frame).toBe(200_000);
    await settle();
    expect(node.told.some((command) => command.type === 'chunk' && command.store === 2)).toBe(true);
  });

  test('that differ in level alone only change the levels; a split changes nothing that is heard', async () => {
    const { made, node } = await started();
    made.setSound(soundOf(applyEdit(recorded, { type: 'split-clips', ...of, frames: [9000, 70_000] }).tracks[0]!), chain);
    made.setSound(
      soundOf(applyEdit(recorded, { type: 'level-spans', ...of, spans: [{ startFrame: 9000, endFrame: 20_000 }], byDb: -6 }).tracks[0]!),
      chain,
    );
    expect(sources(node)).toEqual([]);
    const levels = node.told.flatMap((command) =>
      command.type === 'levels' ? [command.levels && command.levels.stretches.length > 0] : [],
    );
    expect(levels).toEqual([true, true]);
    made.setSound(soundOf(recorded.tracks[0]!), chain);
    expect(node.told[node.told.length - 1]).toEqual({ type: 'levels', levels: null });
  });

  test('set before the first play are what is opened', async () => {
    const made = player();
    made.setSound(soundOf(cut.tracks[0]!), chain);
    made.seek(length);
    expect(made.frame).toBe(length - 100_001);
    await started(made);
    expect(FakeNode.options[FakeNode.options.length - 1]).toMatchObject({ source: { store: 2, lengthFrames: length - 100_000 } });
  });

  test('a track among others has a level of its own, and none when it is muted', async () => {
    const { made, node } = await started();
    const gains = () => node.told.flatMap((command) => (command.type === 'levels' ? [command.levels?.stretches[2]] : []));
    made.setTrackGain(-20);
    made.setTrackGain(-Infinity);
    made.setTrackGain(0);
    made.setTrackGain(0);
    expect(gains()).toEqual([expect.closeTo(0.1, 6), 0, undefined]);
  });
});
