import type { LineUp } from '@euphonos/dsp';
import type { Track } from '@euphonos/engine';
import { wrap } from 'comlink';
import { soundOf } from '../audio/arranged.js';
import { loadKernels } from '../audio/kernels.js';
import { sourceOf } from '../audio/samples.js';
import type { LineUpApi, TrackToLineUp } from './line-up.worker.js';

const asGiven = (track: Track, sampleRateHz: number): TrackToLineUp => ({
  source: { ...sourceOf(track.reel), sampleRateHz },
  sound: soundOf(track),
});

/** How a track lies to another as both stand now, from their sound alone: found in a worker of its own, which then goes. null: they share too little. */
export async function lineUpTracks(first: Track, second: Track, sampleRateHz: number): Promise<LineUp | null> {
  const worker = new Worker(new URL('./line-up.worker.ts', import.meta.url), { type: 'module' });
  try {
    return await wrap<LineUpApi>(worker).lineUp(asGiven(first, sampleRateHz), asGiven(second, sampleRateHz), await loadKernels());
  } finally {
    worker.terminate();
  }
}
