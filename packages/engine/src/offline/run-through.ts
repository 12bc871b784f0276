import type { ChainSpec, PlanarBlock, ProcessorContext } from '@euphonos/dsp';
import { chainRun } from './chain-run.js';

/** A whole sound through a chain: as many frames come out as go in, aligned to the sample. */
export function runThrough(context: ProcessorContext, spec: ChainSpec, input: PlanarBlock): Float32Array[] {
  const frames = input[0]?.length ?? 0;
  const out = input.map(() => new Float32Array(frames));
  let at = 0;
  const run = chainRun(context, spec, (processed, _source, count) => {
    out.forEach((samples, c) => samples.set(processed[c]!.subarray(0, count), at));
    at += count;
  });
  run.push(input, frames);
  run.finish();
  return out;
}
