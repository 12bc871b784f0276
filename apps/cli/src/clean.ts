import { needsProfile, type ChainSpec } from '@euphonos/dsp';
import { rm } from 'node:fs/promises';
import { NO_EDGES, rateOf, type CheckLine, type Levels } from '@euphonos/engine';
import {
  decodeSound,
  hasPicture,
  loadKernels,
  movedTags,
  newReport,
  probeSound,
  putIntoPicture,
  readBroadcast,
  readingNotes,
  renderFile,
  renderSound,
  type SoundBlock,
  wavFormatFor,
} from '@euphonos/media';
import { changesLength, editedSource, wantsEdit } from './edited-source.js';
import { readChain } from './found-spans.js';
import { readNoise, type NoiseOption } from './noise.js';
import { isPlainWav, outputOf, sheetOf, type OutputOptions } from './output.js';
import { UsageError } from './usage.js';

export interface CleanOptions {
  /** A chain as it stands in its file. */
  readonly chainJson: unknown;
  readonly noise: NoiseOption | undefined;
  readonly output: 'result' | 'removed' | 'source';
  readonly file: OutputOptions;
  /** Other sound tracks and subtitles of a picture go along. */
  readonly keepOthers: boolean;
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
): Promise<readonly CheckLine[] | null> {
  const facts = await probeSound(inPath);
  const output = await outputOf(outPath, options.file);
  if (output.picture && !(await hasPicture(inPath)))
    throw new UsageError(`"${inPath}" has no picture that the sound could go back into; name OUT with the ending of a sound file.`);
  const channels = options.channels ?? (facts.channels === 1 ? [0] : [0, 1]);
  const chain = await readChain(options.chainJson, { path: inPath, facts, channels }, note);
  if (output.picture && changesLength(chain))
    throw new UsageError(
      'Pauses that are closed or shortened make the sound shorter than its picture; name OUT with the ending of a sound file, such as .wav.',
    );
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
  const soundPath = output.picture ? `${outPath}.sound.wav` : outPath;
  const request = {
    source: source.blocks,
    expectedFrames: source.frames,
    ...(source.levels ? { levels: source.levels } : {}),
    context: { sampleRateHz: facts.sampleRateHz, channels: channels.length, kernels, noiseProfile },
    chain: source.chain,
    output: options.output,
    target: output.level,
    outPath: soundPath,
    report: output.target !== null,
    edges: (!output.picture && output.target) || NO_EDGES,
  };
  try {
    // What a broadcast WAV says of itself goes along into another.
    const said = output.file.format === 'wav' && !output.picture && facts.format === 'wav' ? await readBroadcast(inPath) : null;
    const rateHz = rateOf(output.file, facts.sampleRateHz);
    const extras = said ? { broadcast: movedTags(said.tags, 0, facts.sampleRateHz, rateHz) } : {};
    const filed = isPlainWav(output) && !said ? null : await renderFile({ ...request, file: output.file, extras });
    const result = filed ?? (await renderSound({ ...request, format: wavFormatFor(output.file) }));
    if (output.picture)
      await putIntoPicture(inPath, soundPath, outPath, { bitrateKbps: options.file.bitrateKbps, keepOthers: options.keepOthers });
    if (result.work.gainDb < 0 && !output.level)
      note(`lowered by ${(-result.work.gainDb).toFixed(1)} dB as a whole, so that nothing clips.`);
    readingNotes(facts, report, facts.sampleRateHz).forEach(note);
    return output.target && filed ? sheetOf(filed, output.target) : null;
  } finally {
    await source.close();
    if (output.picture) await rm(soundPath, { force: true });
  }
}
