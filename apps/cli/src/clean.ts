import { needsProfile, type ChainSpec } from '@euphonos/dsp';
import type { Levels } from '@euphonos/engine';
import {
  decodeSound,
  loadKernels,
  newReport,
  probeSound,
  readingNotes,
  renderSound,
  type RenderResult,
  type SoundBlock,
} from '@euphonos/media';
import { editedSource, wantsEdit } from './edited-source.js';
import { readChain } from './found-spans.js';
import { readJson, readNoise, type NoiseOption } from './noise.js';
import { UsageError } from './usage.js';

export interface CleanOptions {
  readonly chainPath: string;
  readonly noise: NoiseOption | undefined;
  readonly output: 'result' | 'removed' | 'source';
  readonly integratedLufs: number | undefined;
  readonly ceilingDbtp: number | undefined;
  readonly channels: readonly number[] | undefined;
}

/** A render's source, and what the clips do to it; `close` when it is written. */
interface Source {
  readonly blocks: AsyncIterable<SoundBlock>;
  readonly frames: number;
  readonly chain: ChainSpec;
  readonly levels?: Levels;
  readonly close: () => Promise<void>;
}

/** Cleans a file as a session would: same chain, same engine. Of more than two channels the first two, unless told. */
export async function cleanFile(
  inPath: string,
  outPath: string,
  options: CleanOptions,
  note: (text: string) => void,
): Promise<RenderResult> {
  const facts = await probeSound(inPath);
  const channels = options.channels ?? (facts.channels === 1 ? [0] : [0, 1]);
  const chain = await readChain(await readJson(options.chainPath, 'chain file'), { path: inPath, facts, channels }, note);
  const needy = chain.treatments.find((settings) => !settings.bypassed && needsProfile(settings));
  if (needy && !options.noise)
    throw new UsageError(
      `${needy.kind} needs a passage with noise alone: give --noise START-END in seconds, --noise auto or --profile FILE, or set its mode to tracked or voice.`,
    );
  const kernels = loadKernels();
  // Where nothing weighs by a profile, none is looked for; what was given by hand is read all the same, and refused if it is wrong.
  const { noise } = options;
  const noiseProfile =
    noise && (needy || noise !== 'auto') ? await readNoise({ path: inPath, facts, channels }, chain, noise, kernels, note) : undefined;
  const report = newReport();
  const source: Source = wantsEdit(chain)
    ? await editedSource({ path: inPath, facts, channels }, chain, outPath, report, note)
    : {
        blocks: decodeSound(inPath, facts, { channels }, report),
        frames: (facts.statedSeconds ?? 0) * facts.sampleRateHz,
        chain,
        close: async () => undefined,
      };
  const result = await renderSound({
    source: source.blocks,
    expectedFrames: source.frames,
    ...(source.levels ? { levels: source.levels } : {}),
    context: { sampleRateHz: facts.sampleRateHz, channels: channels.length, kernels, noiseProfile },
    chain: source.chain,
    output: options.output,
    target:
      options.integratedLufs === undefined && options.ceilingDbtp === undefined
        ? null
        : { integratedLufs: options.integratedLufs ?? null, ceilingDbtp: options.ceilingDbtp ?? -1 },
    format: /\.f32\.wav$/i.test(outPath) ? 'float32' : 'pcm24',
    outPath,
    report: false,
  }).finally(source.close);
  if (result.work.gainDb < 0 && options.integratedLufs === undefined && options.ceilingDbtp === undefined)
    note(`lowered by ${(-result.work.gainDb).toFixed(1)} dB as a whole, so that nothing clips.`);
  readingNotes(facts, report, facts.sampleRateHz).forEach(note);
  return result;
}
