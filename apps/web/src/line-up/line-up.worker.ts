import { lineUp, type KernelModule, type LineUp, type ReadableSound } from '@euphonos/dsp';
import { expose } from 'comlink';
import { ArrangedReader, type TrackSound } from '../audio/arranged.js';
import type { SampleSource } from '../audio/samples.js';

/** A track as it sounds before its chain. */
export interface TrackToLineUp {
  readonly source: SampleSource & { readonly sampleRateHz: number };
  readonly sound: TrackSound;
}

/** All of its channels as one. */
function readable({ source, sound }: TrackToLineUp, kernels: KernelModule): ReadableSound {
  const reader = new ArrangedReader(source, sound, undefined, kernels);
  return {
    frames: reader.lengthFrames,
    read: async (from, to) => {
      const start = Math.max(0, from);
      const channels = await reader.read(start, Math.max(start, to));
      const out = new Float32Array(to - from);
      for (const samples of channels) for (let n = 0; n < samples.length; n++) out[start - from + n]! += samples[n]! / channels.length;
      return out;
    },
  };
}

const api = {
  lineUp: (first: TrackToLineUp, second: TrackToLineUp, kernels: KernelModule): Promise<LineUp | null> =>
    lineUp(kernels, first.source.sampleRateHz, readable(first, kernels), readable(second, kernels)),
};

export type LineUpApi = typeof api;

expose(api);
