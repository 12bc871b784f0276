import { extname } from 'node:path';
import {
  checkSheet,
  fileFormats,
  formatFacts,
  formatOfName,
  isLossy,
  PLAIN_FILE,
  requireFileSpec,
  requireTarget,
  type CheckLine,
  type DeliveryTarget,
  type FileSpec,
} from '@euphonos/engine';
import { pictureEnding, pictureEndings, type FileResult, type LevelTarget } from '@euphonos/media';
import { readJson } from './noise.js';
import { UsageError } from './usage.js';

/** What is asked of the file that is written. */
export interface OutputOptions {
  readonly bits: string | undefined;
  readonly bitrateKbps: number | undefined;
  readonly rateHz: number | undefined;
  readonly targetPath: string | undefined;
  readonly integratedLufs: number | undefined;
  readonly ceilingDbtp: number | undefined;
}

export interface Output {
  readonly file: FileSpec;
  /** null: the level stays. */
  readonly level: LevelTarget | null;
  /** What the finished file is checked against; null where nothing was given. */
  readonly target: DeliveryTarget | null;
  /** The sound goes back into the picture that it came with. */
  readonly picture: boolean;
}

const ENDINGS = [...fileFormats.map((format) => formatFacts[format].ending), ...pictureEndings];

function bitsOf(text: string | undefined): Partial<FileSpec> {
  if (text === undefined) return {};
  if (text !== '16' && text !== '24' && text !== '32f') throw new UsageError(`--bits is 16, 24 or 32f; "${text}" was given.`);
  return { bits: text === '32f' ? '32f' : text === '16' ? 16 : 24 };
}

/** How OUT is to be written: its ending names the format; a target's wishes for the file come next, and options come before them. */
export async function outputOf(outPath: string, options: OutputOptions): Promise<Output> {
  const target = options.targetPath === undefined ? null : requireTarget((await readJson(options.targetPath, 'target')) as object);
  const picture = pictureEnding(outPath) !== undefined;
  const format = formatOfName(outPath) ?? (picture ? 'wav' : undefined);
  if (!format) throw new UsageError(`The ending of OUT names its format: .${ENDINGS.join(', .')}; "${extname(outPath)}" was given.`);
  if (options.bits !== undefined && !picture && isLossy({ format }))
    throw new UsageError(`${formatFacts[format].title} has no bits of a sample; give --bitrate in kbit/s.`);
  if (options.bitrateKbps !== undefined && !picture && !isLossy({ format }))
    throw new UsageError(`${formatFacts[format].title} keeps every sample; --bitrate is for mp3, m4a, opus and ogg.`);
  // A picture's own sound has its rate, and what goes into it is rounded once only.
  const asked: Partial<FileSpec> = picture ? { bits: '32f' } : { ...(target && target.file.format === format ? target.file : {}) };
  const file = requireFileSpec({
    ...PLAIN_FILE,
    ...asked,
    format,
    ...(/\.f32\.wav$/i.test(outPath) ? { bits: '32f' } : {}),
    ...(picture ? {} : bitsOf(options.bits)),
    ...(options.bitrateKbps === undefined ? {} : { bitrateKbps: options.bitrateKbps }),
    ...(options.rateHz === undefined ? {} : { sampleRateHz: options.rateHz }),
  });
  const { integratedLufs, ceilingDbtp } = options;
  const level =
    target ??
    (integratedLufs === undefined && ceilingDbtp === undefined
      ? null
      : { integratedLufs: integratedLufs ?? null, ceilingDbtp: ceilingDbtp ?? -1 });
  const wished = { ...(integratedLufs === undefined ? {} : { integratedLufs }), ...(ceilingDbtp === undefined ? {} : { ceilingDbtp }) };
  return { file, level: level && { ...level, ...wished }, target: target && { ...target, ...wished, file }, picture };
}

/** Whether the file is a WAV as it always was, which is written while it is made. */
export const isPlainWav = ({ file, target, picture }: Output): boolean =>
  !picture && target === null && file.format === 'wav' && file.bits !== 16 && file.sampleRateHz === null;

/** The sheet of a finished file. */
export const sheetOf = (result: FileResult, target: DeliveryTarget): readonly CheckLine[] =>
  checkSheet(result.before!, result.after!, target, { work: result.work, file: { ...result.facts, asked: target.file, edges: target } });
