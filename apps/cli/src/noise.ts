import { readyFor } from '@euphonos/second-opinion';
import { readFile } from 'node:fs/promises';
import { parseProfileFile, profileFromFile, type ChainSpec, type KernelModule, type NoiseProfile, type SpanSeconds } from '@euphonos/dsp';
import { EngineError, profilePassages, readForeignJson } from '@euphonos/engine';
import { collectSpan, decodeSound, newReport, type SoundFacts } from '@euphonos/media';
import { findingsOf } from './survey.js';
import { UsageError } from './usage.js';

/** Where the noise is known from: passages, the best that the survey finds, or a profile that was kept. */
export type NoiseOption = { readonly passages: readonly SpanSeconds[] } | { readonly profilePath: string } | 'auto';

export interface SoundPart {
  readonly path: string;
  readonly facts: SoundFacts;
  readonly channels: readonly number[];
}

const MOST_JSON_BYTES = 64 << 20;

/** A JSON file. @throws {UsageError} when it is not there, or no JSON. */
export async function readJson(path: string, what: string): Promise<unknown> {
  const bytes = await readFile(path).catch(() => {
    throw new UsageError(`There is no ${what} "${path}".`);
  });
  try {
    return readForeignJson(bytes, { mostBytes: MOST_JSON_BYTES });
  } catch (error) {
    if (error instanceof EngineError) throw new UsageError(`"${path}" cannot be read. ${error.message}`);
    throw error;
  }
}

/** The profile of the noise as it comes to the noise reduction of a chain. `note` says what was chosen. */
export async function readNoise(
  sound: SoundPart,
  chain: ChainSpec,
  noise: NoiseOption,
  kernels: KernelModule,
  note: (text: string) => void,
): Promise<NoiseProfile> {
  const { path, facts, channels } = sound;
  const { sampleRateHz } = facts;
  if (noise !== 'auto' && 'profilePath' in noise)
    return profileFromFile(parseProfileFile(await readJson(noise.profilePath, 'noise profile')), sampleRateHz, channels.length);
  const passages = noise === 'auto' ? [await bestPassage(sound, note)] : noise.passages;
  const spans = passages.map(({ startSeconds, endSeconds }) => ({
    startFrame: Math.round(startSeconds * sampleRateHz),
    endFrame: Math.round(endSeconds * sampleRateHz),
  }));
  await readyFor(chain);
  return profilePassages({ sampleRateHz, channels: channels.length, kernels }, chain, spans, (start, end) =>
    collectSpan(decodeSound(path, facts, { channels }, newReport()), start, end),
  );
}

async function bestPassage({ path, channels }: SoundPart, note: (text: string) => void): Promise<SpanSeconds> {
  const findings = await findingsOf(path, channels);
  const best = findings.flatMap((finding) => (finding.kind === 'noise-passages' ? finding.spans : []))[0];
  if (!best)
    throw new UsageError(
      'The survey finds no passage of half a second with noise alone: give --noise START-END, or set the mode of noise-reduction to tracked.',
    );
  note(
    `noise profiled from ${best.startSeconds.toFixed(2)} to ${best.endSeconds.toFixed(2)} s, ${best.dbfs.toFixed(1)} dBFS, steady within ${best.withinDb.toFixed(1)} dB.`,
  );
  return best;
}
