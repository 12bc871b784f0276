import { SoundMeasure, type PlanarBlock } from '@euphonos/dsp';
import { AlignedRun, partedChain, partedTurn, partFramesAt } from '@euphonos/engine';
import { Gatherer } from './gatherer.js';
import { requireGoing, type Heard, type RenderRequest, type Write } from './render-passes.js';
import type { SoundBlock } from './sound-block.js';

/**
 * The pass through the chain. Blocks are handed on in order, each within one part; returns the frames and, if asked, the source's measures.
 * Where it is gone on with, from there on.
 * @param atPart is told that so many parts are complete
 */
export async function runChain(
  request: RenderRequest,
  write: Write,
  progressShare: number,
  atPart?: (parts: number) => Promise<void>,
): Promise<{ frames: number; before: SoundMeasure | null }> {
  const { context, chain, output, parts } = request;
  const before = request.report ? new SoundMeasure(context.kernels, context.sampleRateHz, context.channels) : null;
  const parting = parts?.parting ?? { partFrames: partFramesAt(context.sampleRateHz) };
  const { partFrames } = parting;
  const parted = partedChain(context, chain, parting);
  const { startFrame } = parted;
  const ready = new Gatherer(context.channels);
  let made = startFrame;
  const add = (processed: PlanarBlock, source: PlanarBlock, frames: number): void => {
    if (output === 'removed') ready.add(source, frames, processed);
    else if (output === 'source') ready.add(source, frames);
    else ready.add(processed, frames);
  };
  const sink = (processed: PlanarBlock, source: PlanarBlock, count: number): void => {
    request.levels?.apply(processed, 0, made, count);
    for (let at = 0; at < count;) {
      const isRight = made >= parted.rightFrom;
      const end = isRight ? partFrames * (1 + Math.floor(made / partFrames)) : parted.rightFrom;
      const frames = Math.min(count - at, end - made);
      const from = (block: PlanarBlock): PlanarBlock => (at === 0 ? block : block.map((samples) => samples.subarray(at)));
      if (isRight) add(from(processed), from(source), frames);
      at += frames;
      made += frames;
      if (made === end) ready.close();
    }
  };
  let written = parted.rightFrom;
  const writeOn = async (block: SoundBlock): Promise<void> => {
    await write(block);
    written += block.frames;
    if (written % partFrames === 0) await atPart?.(written / partFrames);
  };
  if (before && startFrame > 0) await measureUpTo(request, parts!.source(), before, startFrame);
  // What is compared with is turned as the chain turns it.
  const turn = output === 'result' ? null : partedTurn(context, chain, { partFrames });
  const run = new AlignedRun(parted, context.channels, sink, turn);
  let frames = startFrame;
  for await (const block of startFrame > 0 ? parts!.heardFrom(startFrame) : request.source) {
    requireGoing(request);
    before?.process(block.source ?? block.channels, block.frames);
    run.push(block.channels, block.frames);
    frames += block.frames;
    await ready.handOn(writeOn);
    request.onProgress?.(Math.min(1, frames / Math.max(1, request.expectedFrames)) * progressShare);
  }
  run.finish();
  await ready.handOn(writeOn, true);
  return { frames, before };
}

/** What was measured by whoever began the render. */
async function measureUpTo(request: RenderRequest, source: Heard, measure: SoundMeasure, endFrame: number): Promise<void> {
  let at = 0;
  for await (const block of source) {
    requireGoing(request);
    const frames = Math.min(block.frames, endFrame - at);
    measure.process(block.source ?? block.channels, frames);
    at += frames;
    if (at === endFrame) break;
  }
}
