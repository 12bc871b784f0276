import { rename, rm, writeFile } from 'node:fs/promises';
import { basename, extname } from 'node:path';
import { findingsFor } from '@euphonos/dsp';
import {
  checkSheet,
  createDocument,
  formatOfName,
  makeReport,
  PLAIN_FILE,
  reportAsHtml,
  requireTarget,
  speechBand,
  targets,
  type Report,
} from '@euphonos/engine';
import {
  asDataUrl,
  asMediaError,
  htmlAsPdf,
  loadKernels,
  measureFinished,
  probeSound,
  RESULT_INK,
  soundAsPng,
  SOURCE_INK,
} from '@euphonos/media';
import { chainOf } from './chain-of.js';
import { surveyFile } from './survey.js';
import { UsageError } from './usage.js';

export interface ReportOptions {
  /** The chain that made AFTER of BEFORE, as it stands in its file; left out, nothing is told of it. */
  readonly chainJson: unknown;
  readonly targetJson: unknown;
}

/** Tells what became of a file: both are surveyed and measured here. The ending of OUT names the form. */
export async function reportOf(
  beforePath: string,
  afterPath: string,
  outPath: string,
  { chainJson, targetJson }: ReportOptions,
): Promise<Report> {
  const ending = extname(outPath).toLowerCase();
  if (!['.html', '.pdf', '.json'].includes(ending))
    throw new UsageError(`OUT ends in .html, .pdf or .json; "${basename(outPath)}" was given.`);
  const kernels = loadKernels();
  const nothing = (): void => undefined;
  const [facts, survey] = [await probeSound(beforePath), await surveyFile(beforePath, nothing, nothing)];
  const before = await measureFinished(beforePath, Infinity, kernels);
  const after = await measureFinished(afterPath, Infinity, kernels);
  const name = basename(beforePath, extname(beforePath));
  const frames = Math.round(before.figures.durationSeconds * facts.sampleRateHz);
  const target = targetJson === undefined ? asItIs() : requireTarget(targetJson as object);
  const written = { ...target, file: { ...target.file, format: formatOfName(afterPath) ?? target.file.format } };
  const bare = createDocument({ id: 'r1', name, lengthFrames: frames, sampleRateHz: facts.sampleRateHz, channels: facts.channels });
  const chain = chainJson === undefined ? { treatments: [] } : chainOf(chainJson);
  // Whatever weighed by a noise was shown one, or there would be no AFTER.
  const noise = { kind: 'passages' as const, spans: [{ startFrame: 0, endFrame: Math.min(frames, facts.sampleRateHz) }] };
  const band = speechBand(target);
  const made = makeReport({
    title: basename(afterPath, extname(afterPath)),
    madeAt: new Date(),
    fileName: basename(afterPath),
    document: { ...bare, target: written, tracks: bare.tracks.map((track) => ({ ...track, chain, noise })) },
    received: [
      {
        fileName: basename(beforePath),
        codec: facts.codec,
        fileSampleRateHz: facts.sampleRateHz,
        channels: facts.channels,
        seconds: before.figures.durationSeconds,
        figures: before.figures,
        notes: [],
        findings: findingsFor(survey.findings, facts.channels === 1 ? [0] : [0, 1]),
        picture: asDataUrl(await soundAsPng(beforePath, SOURCE_INK, kernels)),
      },
    ],
    target: written,
    sheet: checkSheet(before.figures, after.figures, written, {
      work: { gainDb: 0, limitedDb: 0, limitedSeconds: 0 },
      file: { ...after.facts, asked: null },
    }),
    work: null,
    after: after.figures,
    loudness: {
      before: before.loudness,
      after: after.loudness,
      stepSeconds: 0.1,
      band: band && [band.lufs - band.toleranceLu, band.lufs + band.toleranceLu],
    },
    picture: asDataUrl(await soundAsPng(afterPath, RESULT_INK, kernels)),
  });
  // What became of its clips, and whose noise it was, is not known of two files.
  const report: Report = { ...made, done: made.done.map((one) => ({ ...one, edits: [] })) };
  const partPath = `${outPath}.part`;
  try {
    await writeFile(
      partPath,
      ending === '.json'
        ? `${JSON.stringify(report, null, 1)}\n`
        : ending === '.html'
          ? reportAsHtml(report)
          : await htmlAsPdf(reportAsHtml(report)),
    );
    await rename(partPath, outPath);
  } catch (error) {
    throw asMediaError(error);
  } finally {
    await rm(partPath, { force: true });
  }
  return report;
}

/** A target that asks for nothing but what no file may do. */
const asItIs = () => ({ ...targets[0]!, name: 'as it is', integratedLufs: null, noiseFloorDbfs: null, ceilingDbtp: 0, file: PLAIN_FILE });
