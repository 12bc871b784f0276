import type { MemoryNews, MemoryRequest } from '../passage/chain-memory.js';
import { fakeSound, pass, player, settle, started } from './testing/fake-sound.js';

jest.mock('./kernels.js', () => ({ loadKernels: async () => ({}) }));
beforeEach(fakeSound);

describe('what the chain remembers', () => {
  const gate = { treatments: [{ kind: 'gate' as const, bypassed: false }] };
  const news = (index: number, done = false): MemoryNews => ({
    spacingFrames: 24576,
    held: done ? [] : [[index, { chain: [], turn: [] }]],
    prepared: null,
    nextFrame: 24576 * (index + 1),
    done,
  });
  const usual = pass.memories;
  const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
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

  test('that cannot be learnt is told; the sound goes on', async () => {
    pass.memories = () => {
      throw new Error('the line is down');
    };
    const troubles: unknown[] = [];
    const { made } = await started(player(troubles));
    made.setChain(gate);
    await wait(1000);
    expect(String(troubles[0])).toContain('the line is down');
    expect(made.playing).toBe(true);
  });
});
