import type { MemoryNews, MemoryRequest } from '../passage/chain-memory.js';
import { fakeSound, pass, player, settle, started } from './testing/fake-sound.js';

jest.mock('./kernels.js', () => ({ loadKernels: async () => ({}) }));
beforeEach(fakeSound);
// Time is made: what is waited for is over when it is, however busy the machine.
beforeEach(() => void jest.useFakeTimers({ advanceTimers: true }));
afterEach(() => void jest.useRealTimers());

describe('what the chain remembers', () => {
  const gate = { treatments: [{ kind: 'gate' as const, bypassed: false }] };
  const news = (index: number, done = false): MemoryNews => ({
    spacingFrames: 24576,
    held: done ? [] : [[index, { chain: [], turn: [] }]],
    prepared: null,
    nextFrame: 24576 * (index + 1),
    passed: done,
    done,
  });
  const usual = pass.memories;
  const wait = (ms: number): Promise<void> => jest.advanceTimersByTimeAsync(ms);
  afterEach(() => (pass.memories = usual));

  test('is brought to the monitor piece by piece once nothing moves, and said to be unknown until then', async () => {
    const asked: number[] = [];
    pass.memories = ({ whole }, fromIndex) => {
      if (whole !== gate) return usual({} as MemoryRequest, 1);
      asked.push(fromIndex);
      return news(fromIndex, fromIndex === 3);
    };
    const { made, node } = await started();
    made.stop();
    made.seek(500_000);
    made.setChain(gate);
    expect([made.exact, asked]).toEqual([false, []]);
    await wait(1000);
    expect(asked).toEqual([1, 2, 3]);
    expect(made.exact).toBe(true);
    expect(node.told.flatMap((command) => (command.type === 'memories' ? [command.held[0]![0], command.key] : []))).toEqual([
      1,
      expect.stringContaining('gate'),
      2,
      expect.stringContaining('gate'),
    ]);
  });

  test('of a chain that was left meanwhile is thrown away; a chain that remembers nothing asks for none', async () => {
    let asked = 0;
    pass.memories = () => (asked++, news(1));
    const { made, node } = await started();
    made.setChain(gate);
    await wait(200);
    made.setChain({ treatments: [{ kind: 'high-pass' as const, bypassed: false }] });
    await wait(1000);
    expect(asked).toBe(0);
    expect(made.exact).toBe(true);
    expect(node.told.some(({ type }) => type === 'memories')).toBe(false);
  });

  test('is told again to a monitor that starts anew', async () => {
    pass.memories = (_, fromIndex) => news(fromIndex, fromIndex === 2);
    const made = player();
    made.setChain(gate);
    await wait(1000);
    const { node } = await started(made);
    await settle();
    expect(node.told.filter(({ type }) => type === 'memories')).toHaveLength(1);
  });

  test('is learnt anew for every profile that is taken: the monitor forgets with it', async () => {
    pass.memories = (_, fromIndex) => news(fromIndex, fromIndex === 2);
    const { made, node } = await started();
    const told = (): number => node.told.filter(({ type }) => type === 'memories').length;
    made.setChain(gate);
    await wait(1000);
    expect(told()).toBe(1);
    made.setProfile(null, gate);
    expect(made.exact).toBe(true);
    made.seek(500_000);
    expect(made.knownFrames).toBe(0);
    await wait(1000);
    expect(told()).toBe(2);
  });

  test('of what is heard aside for a moment nothing is learnt, and what was known stays known', async () => {
    const tracked = {
      treatments: [
        { kind: 'noise-reduction' as const, bypassed: false, mode: 'tracked' },
        { kind: 'clicks' as const, bypassed: false },
      ],
    };
    const keys = new Set<string>();
    pass.memories = ({ key, whole }, fromIndex) => {
      if (whole.treatments.length > 0) keys.add(key);
      return news(fromIndex, fromIndex === 2);
    };
    const { made } = await started();
    made.stop();
    made.setChain(tracked);
    await wait(1200);
    expect(made.exact).toBe(true);
    made.setChain({ treatments: tracked.treatments.slice(0, 1), alone: 'x' } as never, true);
    await wait(700);
    made.setChain(tracked);
    await wait(300);
    expect(keys.size).toBe(1);
    expect(made.exact).toBe(true);
  });

  test('another part in the background is learnt anew, though the chain remembers alike', async () => {
    const clicks = (sensitivity: number) => ({
      treatments: [
        { kind: 'noise-reduction' as const, bypassed: false, mode: 'tracked' },
        { kind: 'clicks' as const, bypassed: false, sensitivity },
      ],
    });
    const keys: string[] = [];
    pass.memories = ({ preparedKey }, fromIndex) => (keys.push(preparedKey), news(fromIndex, true));
    const { made } = await started();
    made.stop();
    made.setChain(clicks(50));
    await wait(800);
    made.setChain(clicks(60));
    expect(made.exact).toBe(false);
    await wait(1000);
    expect(new Set(keys).size).toBe(2);
    expect(made.exact).toBe(true);
  });

  test('that cannot be learnt is told once; the sound goes on, and it is asked for again', async () => {
    let asked = 0;
    pass.memories = () => {
      if (asked++ < 1) throw new Error('the line is down');
      return news(1, true);
    };
    const troubles: unknown[] = [];
    const { made } = await started(player(troubles));
    made.setChain(gate);
    await wait(1000);
    expect(troubles.map(String)).toEqual(['Error: the line is down']);
    expect([made.playing, made.knownFrames]).toEqual([true, 0]);
    await wait(3000);
    expect(made.knownFrames).toBe(Infinity);
    expect(troubles).toHaveLength(1);
  });
});
