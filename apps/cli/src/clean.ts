import { breathRow, needsProfile, parseChain, type ChainSpec, type Finding, type TreatmentSettings } from '@euphonos/dsp';
import { decodeSound, loadKernels, newReport, probeSound, readingNotes, renderSound, type RenderResult } from '@euphonos/media';
import { readJson, readNoise, type NoiseOption } from './noise.js';
import { surveyFile } from './survey.js';
import { UsageError } from './usage.js';

export interface CleanOptions {
  readonly chainPath: string;
  readonly noise: NoiseOption | undefined;
  readonly output: 'result' | 'removed';
  readonly integratedLufs: number | undefined;
  readonly ceilingDbtp: number | undefined;
  readonly channels: readonly number[] | undefined;
}

/** Lists of stretches that a survey fills where a chain leaves them empty: name of the list, and its rows. */
const FOUND: Readonly<Record<string, (findings: readonly Finding[]) => object[]>> = {
  breaths: (findings) => findings.flatMap((finding) => (finding.kind === 'breaths' ? finding.spans.map(breathRow) : [])),
  pauses: (findings) => findings.flatMap((finding) => (finding.kind === 'pauses' ? [...finding.spans] : [])),
};

/** Breaths and pauses that the chain wants treated without saying where they are: where the survey finds them. */
async function withFoundSpans(chain: ChainSpec, path: string, note: (text: string) => void): Promise<ChainSpec> {
  const open = (settings: TreatmentSettings): boolean => settings.kind in FOUND && !settings.bypassed && (settings[settings.kind] as readonly unknown[]).length === 0;
  if (!chain.treatments.some(open)) return chain;
  const { findings } = await surveyFile(path, () => undefined, () => undefined);
  return parseChain({
    treatments: chain.treatments.map((settings) => {
      if (!open(settings)) return settings;
      const rows = FOUND[settings.kind]!(findings);
      note(`${settings.kind}: ${rows.length} found.`);
      return { ...settings, [settings.kind]: rows };
    }),
  });
}

/** Cleans a file as a session would: same chain, same engine. Of more than two channels the first two, unless told. */
export async function cleanFile(inPath: string, outPath: string, options: CleanOptions, note: (text: string) => void): Promise<RenderResult> {
  const chain = await withFoundSpans(parseChain(await readJson(options.chainPath, 'chain file')), inPath, note);
  const facts = await probeSound(inPath);
  const channels = options.channels ?? (facts.channels === 1 ? [0] : [0, 1]);
  const needy = chain.treatments.find((settings) => !settings.bypassed && needsProfile(settings));
  if (needy && !options.noise) throw new UsageError(`${needy.kind} needs a passage with noise alone: give --noise START-END in seconds, --noise auto or --profile FILE, or set its mode to tracked or voice.`);
  const kernels = loadKernels();
  // Where nothing weighs by a profile, none is looked for; what was given by hand is read all the same, and refused if it is wrong.
  const { noise } = options;
  const noiseProfile = noise && (needy || noise !== 'auto') ? await readNoise({ path: inPath, facts, channels }, chain, noise, kernels, note) : undefined;
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
