import { defaultTreatment, type TreatmentSettings } from '@euphonos/dsp';
import { createDocument, type Track, type NoiseSource, type Span } from '@euphonos/engine';
import type { RecordingView } from '@euphonos/contracts';
import { Workbench } from './workbench.js';
import { reelOf } from '../../../../packages/engine/src/testing/documents.js';

interface Lanes<T> {
  source: T;
  removed: T;
  result: T;
}
const player = {
  setChain: jest.fn(),
  setSound: jest.fn(),
  setProfile: jest.fn(),
  setLoop: jest.fn(),
  setLaneGains: jest.fn(),
  close: jest.fn(),
};
const passage = {
  version: 0,
  soundVersion: 0,
  prepareFor: jest.fn(),
  setSound: jest.fn(async () => void passage.soundVersion++),
  setChain: jest.fn(async () => void passage.version++),
  profile: jest.fn(),
  figures: jest.fn(),
  effects: jest.fn(async () => []),
  spectra: jest.fn(async () => null),
  price: jest.fn(async () => ({ treatmentId: 't1', points: [], losses: [], knee: 0, suggested: 0 })),
  close: jest.fn(),
};
jest.mock('../audio/player.js', () => ({ Player: jest.fn(() => player) }));
jest.mock('../passage/passage.js', () => ({ Passage: jest.fn(() => passage) }));

const LENGTH = 480_000;
const recording = { id: 'r', facts: { lengthFrames: LENGTH, sampleRateHz: 48000, channels: 1 } } as RecordingView;
const track = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: 48000, channels: 1 }).tracks[0]!;
const withChain = (...treatments: TreatmentSettings[]): Track => ({ ...track, chain: { treatments } });
const highPass = (part: object = {}): TreatmentSettings => ({ ...defaultTreatment('high-pass'), id: 't1', ...part });
const lufs = (source: number, removed: number | null, result: number): Lanes<object> => {
  const lane = (integratedLufs: number | null) => ({ integratedLufs, noiseFloorDbfs: -50, rmsDbfs: -25 });
  return { source: lane(source), removed: lane(removed), result: lane(result) };
};
const passages = (...spans: Span[]): NoiseSource => ({ kind: 'passages', spans });
const span = { startFrame: 100, endFrame: 50_000 };

const troubles: unknown[] = [];
let workbench: Workbench;
beforeEach(() => {
  jest.useFakeTimers();
  jest.clearAllMocks();
  troubles.length = 0;
  passage.version = 0;
  passage.figures.mockResolvedValue(lufs(-20, -35, -21));
  passage.profile.mockResolvedValue({ frameSize: 2048 });
  workbench = new Workbench(reelOf(recording.facts!.lengthFrames), new Map([['r1', 1]]), 48_000, (error) => troubles.push(error));
});
afterEach(() => {
  workbench.close();
  jest.useRealTimers();
});
const settle = () => jest.advanceTimersByTimeAsync(400);

test('a chain is heard at once, and drawn and measured when it has settled', async () => {
  workbench.setTrack(withChain(highPass()));
  for (const cutoffHz of [90, 100, 110]) workbench.setTrack(withChain(highPass({ cutoffHz })));
  expect(player.setChain).toHaveBeenCalledTimes(4);
  expect(passage.setChain).not.toHaveBeenCalled();
  await settle();
  expect(passage.setChain).toHaveBeenCalledTimes(1);
  expect(passage.setChain).toHaveBeenCalledWith({ treatments: [highPass({ cutoffHz: 110 })] }, null, []);
  expect(workbench.figures).toEqual(lufs(-20, -35, -21));
});

test('what does not change the sound makes nothing anew: an id, the settings of a bypassed treatment', async () => {
  workbench.setTrack(withChain(highPass(), { ...defaultTreatment('gate'), id: 't2', bypassed: true }));
  await settle();
  workbench.setTrack(withChain(highPass({ id: 'other' }), { ...defaultTreatment('gate'), id: 't2', bypassed: true, openDb: -30 }));
  await settle();
  expect(player.setChain).toHaveBeenCalledTimes(1);
  expect(passage.setChain).toHaveBeenCalledTimes(1);
});

test('a noise passage is profiled once, and the profile goes to sound and pictures', async () => {
  workbench.setTrack({ ...track, noise: passages(span) });
  workbench.setTrack({ ...track, noise: passages({ ...span }) });
  await settle();
  expect(passage.profile).toHaveBeenCalledTimes(1);
  expect(player.setProfile).toHaveBeenLastCalledWith({ frameSize: 2048 }, track.chain);
  expect(passage.setChain).toHaveBeenLastCalledWith(track.chain, { frameSize: 2048 }, []);
  expect(workbench.profile).not.toBeNull();
  workbench.setTrack({ ...track, noise: null });
  expect(player.setProfile).toHaveBeenLastCalledWith(null, track.chain);
  expect(workbench.profile).toBeNull();
});

test('of two passages the later one counts, even when its profile comes first', async () => {
  const comes: ((profile: object) => void)[] = [];
  passage.profile.mockImplementation(() => new Promise((resolve) => comes.push(resolve)));
  workbench.setTrack({ ...track, noise: passages(span) });
  workbench.setTrack({ ...track, noise: passages({ startFrame: 0, endFrame: 90_000 }) });
  comes[1]!({ frameSize: 2 });
  comes[0]!({ frameSize: 1 });
  await settle();
  expect(player.setProfile).toHaveBeenLastCalledWith({ frameSize: 2 }, track.chain);
});

test('a profile that cannot be taken is told, and tried again the next time', async () => {
  passage.profile.mockRejectedValueOnce(new Error('line cut'));
  workbench.setTrack({ ...track, noise: passages(span) });
  await settle();
  expect(troubles).toHaveLength(1);
  workbench.setTrack({ ...track, noise: passages({ ...span }) });
  await settle();
  expect(workbench.profile).not.toBeNull();
});

test('figures are of the loop, and of the whole without one', async () => {
  workbench.setTrack(track);
  await settle();
  workbench.setLoop(span);
  await settle();
  workbench.setLoop(null);
  await settle();
  expect(passage.figures.mock.calls.map(([of]) => of)).toEqual([
    { startFrame: 0, endFrame: LENGTH },
    span,
    { startFrame: 0, endFrame: LENGTH },
  ]);
  expect(passage.setChain).toHaveBeenCalledTimes(1);
});

test('says what its figures are of, and shows none of another span', async () => {
  workbench.setTrack(track);
  await settle();
  expect(workbench.figuresOf).toBe('overall');
  workbench.setLoop(span);
  expect([workbench.figuresOf, workbench.figures]).toEqual(['loop', null]);
  const hour = new Workbench(reelOf(172_800_000), new Map(), 48_000, () => undefined);
  expect(hour.figuresOf).toBe('first minute');
  hour.setLoop({ startFrame: 0, endFrame: 48_000_000 });
  expect(hour.figuresOf).toBe('first minute of the loop');
  hour.close();
});

test('equal loudness brings each lane to the source, within 24 dB, and only when it is asked for', async () => {
  workbench.setTrack(track);
  await settle();
  expect(workbench.laneGainsDb).toEqual({ source: 0, removed: 0, result: 0 });
  workbench.setEqualLoudness(true);
  expect(player.setLaneGains).toHaveBeenLastCalledWith({ source: 0, removed: 15, result: 1 });
  passage.figures.mockResolvedValue(lufs(-20, -70, -20));
  workbench.setLoop(span);
  await settle();
  expect(workbench.laneGainsDb.removed).toBe(24);
  passage.figures.mockResolvedValue(lufs(-20, null, -20));
  workbench.setLoop({ startFrame: 0, endFrame: 9000 });
  await settle();
  expect(workbench.laneGainsDb.removed).toBe(0);
});

test('figures that come after the chain has moved on are not shown', async () => {
  let come: (figures: object) => void = () => undefined;
  passage.figures.mockImplementationOnce(() => new Promise((resolve) => (come = resolve)));
  workbench.setTrack(withChain(highPass()));
  await settle();
  workbench.setTrack(withChain(highPass({ cutoffHz: 200 })));
  await settle();
  come(lufs(-1, -1, -1));
  await settle();
  expect(workbench.figures).toEqual(lufs(-20, -35, -21));
});

test('a wish for more figures does not swallow a change that waits to be drawn', async () => {
  workbench.setTrack(withChain(highPass()));
  await settle();
  workbench.setTrack(withChain(highPass({ cutoffHz: 200 })));
  const stop = workbench.watchPrice();
  await settle();
  expect(passage.setChain).toHaveBeenLastCalledWith({ treatments: [highPass({ cutoffHz: 200 })] }, null, []);
  expect(workbench.price).toMatchObject({ treatmentId: 't1' });
  stop();
  passage.price.mockClear();
  workbench.setTrack(withChain(highPass({ cutoffHz: 300 })));
  await settle();
  expect(passage.price).not.toHaveBeenCalled();
});

describe('the profile follows what stands before the noise reduction', () => {
  const noisy = (...before: TreatmentSettings[]): Track => ({
    ...withChain(...before, { ...defaultTreatment('noise-reduction'), id: 'n' }),
    noise: passages(span),
  });

  test('a control before it counts when it rests; one behind it does not', async () => {
    workbench.setTrack(noisy(highPass()));
    await settle();
    expect(passage.profile).toHaveBeenCalledTimes(1);
    for (const cutoffHz of [90, 100, 110]) workbench.setTrack(noisy(highPass({ cutoffHz })));
    expect(passage.profile).toHaveBeenCalledTimes(1);
    await settle();
    expect(passage.profile).toHaveBeenCalledTimes(2);
    expect(passage.profile.mock.calls[1][1]).toMatchObject({ treatments: [{ cutoffHz: 110 }, { kind: 'noise-reduction' }] });
    const behind = noisy(highPass({ cutoffHz: 110 }));
    workbench.setTrack({ ...behind, chain: { treatments: [...behind.chain.treatments, { ...defaultTreatment('gate'), id: 'g' }] } });
    await settle();
    expect(passage.profile).toHaveBeenCalledTimes(2);
  });

  test('another passage is profiled at once; a profile that comes too late is not taken', async () => {
    let come: (profile: object) => void = () => undefined;
    passage.profile.mockImplementationOnce(() => new Promise((resolve) => (come = resolve)));
    workbench.setTrack(noisy(highPass()));
    workbench.setTrack({ ...noisy(highPass()), noise: passages({ startFrame: 0, endFrame: 90_000 }) });
    expect(passage.profile).toHaveBeenCalledTimes(2);
    await settle();
    const profiles = player.setProfile.mock.calls.length;
    come({ frameSize: 1 });
    await settle();
    expect(player.setProfile).toHaveBeenCalledTimes(profiles);
  });
});
