import { parseChain, SoundMeasure, turned, type ChainSpec } from '@euphonos/dsp';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, sine, voice } from '../../../dsp/src/testing/signals.js';
import { chainRun } from '../offline/chain-run.js';
import { codeOf } from '../testing/documents.js';
import { chainOfFile, chainToFile, parseChainFile, type ChainFile } from './chain-file.js';
import { startingChains } from './starting-chains.js';

const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
const SETTLED = 3 * RATE_HZ;
const SECONDS = 9;

function through(chain: ChainSpec, sound: Float32Array): Float32Array {
  const parts: Float32Array[] = [];
  const run = chainRun(context, chain, (out, _, frames) => parts.push(out[0]!.slice(0, frames)));
  run.push([sound], sound.length);
  run.finish();
  return joined(...parts);
}
function lufs(sound: Float32Array): number {
  const measure = new SoundMeasure(kernels, RATE_HZ, 1);
  measure.process([sound.slice(SETTLED)], sound.length - SETTLED);
  return measure.finish().integratedLufs!;
}
const quiet = (x: Float32Array): number => levelDb(x, SETTLED);

describe('starting chains', () => {
  // A voice over the floor of a room; what real people lose and what faults get less by is measured by `npm run bench chains`.
  // As loud where it sounds as speech is recorded, -20 dBFS: what has a threshold is set for that.
  const made = voice(SECONDS, 150);
  const sounding = levelDb(made.filter((x) => Math.abs(x) > 0.01));
  const clean = mixed(
    made.map((x) => x * 10 ** ((-20 - sounding) / 20)),
    noise(-65, SECONDS, 8),
  );

  test('there are a dozen and more, each with a name, a word what for, and something to do', () => {
    expect(startingChains.length).toBeGreaterThanOrEqual(12);
    expect(new Set(startingChains.map(({ name }) => name)).size).toBe(startingChains.length);
    for (const { note, treatments } of startingChains) expect([note.length > 20, treatments.length > 0]).toEqual([true, true]);
  });

  test.each(startingChains.map((chain) => [chain.name, chain] as const))('%s: a clean voice loses next to nothing', (_, { treatments }) => {
    const out = through({ treatments }, clean);
    expect(Math.abs(lufs(out) - lufs(clean))).toBeLessThanOrEqual(0.3);
    const [source] = turned(context, { treatments }, [clean]);
    const lost = source!.map((x, n) => x - out[n]!);
    expect(quiet(source!) - quiet(lost)).toBeGreaterThanOrEqual(30);
  });

  test.each([
    ['Computer beside the desk', noise(-46, SECONDS, 9), 9],
    ['Beside running water', noise(-40, SECONDS, 9), 10],
    ['Hum in the cable', mixed(sine(50, -38, SECONDS), sine(150, -44, SECONDS)), 15],
  ])('%s: its fault gets less', (name, fault, least) => {
    const { treatments } = startingChains.find((chain) => chain.name === name)!;
    const out = through({ treatments }, fault);
    expect(quiet(fault) - quiet(out)).toBeGreaterThanOrEqual(least);
  });
});

describe('a chain as a file', () => {
  const chain = parseChain({
    treatments: [
      { kind: 'high-pass', id: 'h', cutoffHz: 90 },
      { kind: 'spots', id: 's', spots: [{ startSeconds: 1, endSeconds: 2, lowHz: 100, highHz: 900 }] },
    ],
  });

  test('names nothing of one recording, and comes back as it was', () => {
    const file = chainToFile(chain, ' Tent ', 'canvas');
    expect(file).toMatchObject({ name: 'Tent', note: 'canvas', treatments: [{ kind: 'high-pass', cutoffHz: 90 }] });
    expect(JSON.stringify(file)).not.toContain('"id"');
    expect(parseChainFile(JSON.parse(JSON.stringify(file)))).toEqual(file);
    let made = 0;
    expect(chainOfFile(file, () => `n${++made}`).treatments.map(({ id }) => id)).toEqual(['n1']);
  });

  test.each<[string, string, object]>([
    ['something else', 'chain-file', { format: 'noise-profile' }],
    ['a newer version', 'chain-file', { version: 2 }],
    ['no name', 'chain-file', { name: ' ' }],
  ])('%s is refused', (_, code, change) => {
    const file: ChainFile = chainToFile(chain, 'Tent');
    expect(codeOf(() => parseChainFile({ ...file, ...change }))).toBe(code);
  });
});
