import { parseChain } from '@euphonos/dsp';
import fc from 'fast-check';
import { joined, kernels, noise, RATE_HZ } from '../../../dsp/src/testing/signals.js';
import { chainRun } from './chain-run.js';

const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
const input = noise(-30, 0.3, 4);

function runAll(spec: unknown, samples: Float32Array, pushFrames: number): { out: Float32Array; source: Float32Array } {
  const out: Float32Array[] = [];
  const source: Float32Array[] = [];
  const run = chainRun(context, parseChain(spec), (processed, dry, frames) => {
    out.push(processed[0]!.slice(0, frames));
    source.push(dry[0]!.slice(0, frames));
  });
  for (let at = 0; at < samples.length; at += pushFrames) run.push([samples.subarray(at)], Math.min(pushFrames, samples.length - at));
  run.finish();
  return { out: joined(...out), source: joined(...source) };
}

const gate = { treatments: [{ kind: 'gate' }, { kind: 'high-pass', cutoffHz: 200 }] };

test('what comes out has the length of what goes in, with the source beside it to the sample', () => {
  const { out, source } = runAll(gate, input, 1000);
  expect(out.length).toBe(input.length);
  expect(source).toEqual(input);
});

test('the split into pushes changes no sample', () => {
  const whole = runAll(gate, input, input.length).out;
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 9000 }), (frames) => {
      expect(runAll(gate, input, frames).out).toEqual(whole);
    }),
    { numRuns: 15 },
  );
});

test('an empty chain changes nothing, a bypassed one neither', () => {
  expect(runAll({ treatments: [] }, input, 777).out).toEqual(input);
  expect(runAll({ treatments: [{ kind: 'gate', bypassed: true }] }, input, 777).out).toEqual(input);
});
