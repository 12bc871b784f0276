import type { SoundBlock } from './sound-block.js';

/** Collects frames [startFrame, endFrame) of a stream into one array a channel; shorter when the stream ends before. */
export async function collectSpan(blocks: AsyncIterable<SoundBlock>, startFrame: number, endFrame: number): Promise<Float32Array[]> {
  const parts: Float32Array[][] = [];
  let at = 0;
  for await (const { channels, frames } of blocks) {
    const from = Math.max(0, startFrame - at);
    const to = Math.min(frames, endFrame - at);
    if (from < to) parts.push(channels.map((samples) => samples.slice(from, to)));
    at += frames;
    if (at >= endFrame) break;
  }
  const width = parts[0]?.length ?? 0;
  return Array.from({ length: width }, (_, c) => {
    const whole = new Float32Array(parts.reduce((sum, part) => sum + part[c]!.length, 0));
    let to = 0;
    for (const part of parts) {
      whole.set(part[c]!, to);
      to += part[c]!.length;
    }
    return whole;
  });
}
