import { readFile } from 'node:fs/promises';
import { needsProfile, parseChain, type ChainSpec, type KernelModule, type NoiseProfile, type SpanSeconds } from '@euphonos/dsp';
import { framesToProfile, profilePassage } from '@euphonos/engine';
import { collectSpan, decodeSound, loadKernels, MediaError, newReport, probeSound, readingNotes, renderSound, type RenderResult, type SoundFacts } from '@euphonos/media';
import { surveyFile } from './survey.js';
import { UsageError } from './usage.js';

export interface CleanOptions {
  readonly chainPath: string;
  readonly noise: SpanSeconds | 'auto' | undefined;
  readonly output: 'result' | 'removed';
  readonly integratedLufs: number | undefined;
  readonly ceilingDbtp: number | undefined;
  readonly channels: readonly number[] | undefined;
}

async function readChain(path: string): Promise<ChainSpec> {
  const text = await readFile(path, 'utf8').catch(() => {
    throw new UsageError(`There is no chain file "${path}".`);
  });
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new UsageError(`"${path}" is not JSON: ${(error as Error).message}.`);
  }
  return parseChain(json);
}

async function readProfile(path: string, chain: ChainSpec, facts: SoundFacts, channels: readonly number[], noise: SpanSeconds | undefined, kernels: KernelModule): Promise<NoiseProfile | undefined> {
  if (!noise) return undefined;
  const { sampleRateHz } = facts;
  const passage = { startFrame: Math.round(noise.startSeconds * sampleRateHz), endFrame: Math.round(noise.endSeconds * sampleRateHz) };
  const { startFrame, endFrame } = framesToProfile(chain, passage, sampleRateHz);
  const samples = await collectSpan(decodeSound(path, facts, { channels }, newReport()), startFrame, endFrame);
  const end = startFrame + (samples[0]?.length ?? 0);
  if (end < passage.endFrame)
    throw new MediaError('noise-span', `The noise passage ${noise.startSeconds}-${noise.endSeconds} s ends after the recording, which is ${(end / sampleRateHz).toFixed(2)} s long or less.`);
  return profilePassage({ sampleRateHz, channels: channels.length, kernels }, chain, samples, passage);
}

/** The passage that was given, or the longest one with noise alone that the survey finds; `note` says which. */
async function findNoise(path: string, noise: CleanOptions['noise'], note: (text: string) => void): Promise<SpanSeconds | undefined> {
  if (noise !== 'auto') return noise;
  const { findings } = await surveyFile(path, () => undefined, () => undefined);
  const passage = findings.flatMap((finding) => (finding.kind === 'noise-passages' ? finding.spans : []))[0];
  if (!passage) throw new UsageError('The survey finds no passage of half a second with noise alone: give --noise START-END, or set the mode of noise-reduction to tracked.');
  note(`noise profiled from ${passage.startSeconds.toFixed(2)} to ${passage.endSeconds.toFixed(2)} s.`);
  return passage;
}

/** Cleans a file as a session would: same chain, same engine. Of more than two channels the first two, unless told. */
export async function cleanFile(inPath: string, outPath: string, options: CleanOptions, note: (text: string) => void): Promise<RenderResult> {
  const chain = await readChain(options.chainPath);
  const facts = await probeSound(inPath);
  const channels = options.channels ?? (facts.channels === 1 ? [0] : [0, 1]);
  const needy = chain.treatments.find((settings) => !settings.bypassed && needsProfile(settings));
  if (needy && !options.noise) throw new UsageError(`${needy.kind} needs a passage with noise alone: give --noise START-END in seconds or --noise auto, or set its mode to tracked or voice.`);
  const kernels = loadKernels();
  const noiseProfile = await readProfile(inPath, chain, facts, channels, needy || options.noise !== 'auto' ? await findNoise(inPath, options.noise, note) : undefined, kernels);
  const report = newReport();
  const result = await renderSound({
    source: decodeSound(inPath, facts, { channels }, report),
    expectedFrames: (facts.statedSeconds ?? 0) * facts.sampleRateHz,
    context: { sampleRateHz: facts.sampleRateHz, channels: channels.length, kernels, noiseProfile },
    chain,
    output: options.output,
    target:
      options.integratedLufs === undefined && options.ceilingDbtp === undefined
        ? null
        : { integratedLufs: options.integratedLufs ?? null, ceilingDbtp: options.ceilingDbtp ?? -1 },
    format: /\.f32\.wav$/i.test(outPath) ? 'float32' : 'pcm24',
    outPath,
    report: false,
  });
  if (result.work.gainDb < 0 && options.integratedLufs === undefined && options.ceilingDbtp === undefined)
    note(`lowered by ${(-result.work.gainDb).toFixed(1)} dB as a whole, so that nothing clips.`);
  readingNotes(facts, report, facts.sampleRateHz).forEach(note);
  return result;
}
