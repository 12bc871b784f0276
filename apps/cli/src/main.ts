#!/usr/bin/env node
import { stat } from 'node:fs/promises';
import { dirname } from 'node:path';
import { parseArgs } from 'node:util';
import { setFlagsFromString } from 'node:v8';
import { DspError } from '@euphonos/dsp';
import { EngineError } from '@euphonos/engine';
import { MediaError } from '@euphonos/media';
import { balanceFiles } from './balance.js';
import { bundleFiles, unbundle } from './bundle.js';
import { cleanBatch } from './batch.js';
import { cleanFile } from './clean.js';
import { lineUpFiles } from './line-up.js';
import { measureFile } from './measure.js';
import { HELP } from './help.js';
import { readJson } from './noise.js';
import { joinNegativeNumbers, noiseOf, outputOptions, path } from './options.js';
import { reportOf } from './report.js';
import { profileFile } from './profile.js';
import { surveyFile } from './survey.js';
import { treatmentsAsJson } from './treatments.js';
import { parseChannels, parseNumber, parseNoise, UsageError } from './usage.js';

// Decoded sound passes through in large buffers that live for a moment. A young generation that may grow collects
// them rarely, and an hour of sound would take a third more memory than three minutes.
setFlagsFromString('--semi-space-growth-factor=1');

const print = (value: unknown): void => void process.stdout.write(`${JSON.stringify(value, null, 2)}\n`);
const note = (text: string): void => void process.stderr.write(`note: ${text}\n`);

/** Percent on one line of a terminal; nothing where nobody looks. */
function showProgress(): (percent: number) => void {
  let shown = -1;
  return (percent) => {
    if (!process.stderr.isTTY || percent === shown) return;
    shown = percent;
    process.stderr.write(percent === 100 ? '\r      \r' : `\r${percent} % `);
  };
}

async function requireFolder(file: string): Promise<void> {
  const folder = await stat(dirname(file)).catch(() => undefined);
  if (!folder?.isDirectory()) throw new UsageError(`There is no folder "${dirname(file)}" to write to.`);
}

async function clean(args: string[]): Promise<void> {
  const text = { type: 'string' } as const;
  const { values, positionals } = parseArgs({
    args: joinNegativeNumbers(args),
    allowPositionals: true,
    options: {
      ...{ chain: text, noise: text, output: text, loudness: text, ceiling: text, channels: text, profile: text },
      ...{ bits: text, bitrate: text, rate: text, target: text, 'no-others': { type: 'boolean' } as const },
    },
  });
  const [inPath, outPath] = positionals;
  if (!inPath || !outPath || positionals.length > 2) throw new UsageError('clean takes two files: IN and OUT.');
  if (!values.chain) throw new UsageError('clean needs --chain CHAIN.json.');
  const { output = 'result' } = values;
  if (output !== 'result' && output !== 'removed' && output !== 'source')
    throw new UsageError(`--output is result, removed or source; "${output}" was given.`);
  if (path(inPath) === path(outPath)) throw new UsageError('IN and OUT are the same file; the recording is never overwritten.');
  await requireFolder(path(outPath));
  const sheet = await cleanFile(
    path(inPath),
    path(outPath),
    {
      chainJson: await readJson(path(values.chain), 'chain file'),
      noise: noiseOf(values),
      output,
      file: outputOptions(values),
      keepOthers: values['no-others'] !== true,
      channels: parseChannels(values.channels),
    },
    note,
  );
  if (sheet) print(sheet);
}

async function batch(args: string[]): Promise<void> {
  const text = { type: 'string' } as const;
  const { values, positionals } = parseArgs({
    args: joinNegativeNumbers(args),
    allowPositionals: true,
    options: {
      ...{ chain: text, suggested: { type: 'boolean' } as const, noise: text, profile: text, to: text, channels: text },
      ...{ loudness: text, ceiling: text, bits: text, bitrate: text, rate: text, target: text },
    },
  });
  const [folder, outFolder] = positionals;
  if (!folder || !outFolder || positionals.length > 2) throw new UsageError('batch takes two folders: FOLDER and OUT.');
  if ((values.chain === undefined) === (values.suggested !== true))
    throw new UsageError('batch needs --chain CHAIN.json, or --suggested for what each file’s own survey suggests.');
  if (path(folder) === path(outFolder)) throw new UsageError('FOLDER and OUT are the same; recordings are never overwritten.');
  const progress = showProgress();
  const entries = await cleanBatch(
    path(folder),
    path(outFolder),
    {
      chainJson: values.chain === undefined ? null : await readJson(path(values.chain), 'chain file'),
      noise: noiseOf(values),
      file: outputOptions(values),
      channels: parseChannels(values.channels),
      to: (values.to ?? 'wav').replace(/^\./, ''),
    },
    ({ file, state, problem, needsEar }, done, all) => {
      progress(Math.floor((100 * done) / all));
      if (state === 'failed') note(`${file}: ${problem}`);
      else for (const why of needsEar) note(`${file}: ${why}`);
    },
  );
  print(entries);
  if (entries.some(({ state }) => state === 'failed')) process.exitCode = 3;
}

async function profile(args: string[]): Promise<void> {
  const text = { type: 'string' } as const;
  const { values, positionals } = parseArgs({ args, allowPositionals: true, options: { chain: text, noise: text, channels: text } });
  const [inPath, outPath] = positionals;
  if (!inPath || !outPath || positionals.length > 2) throw new UsageError('profile takes two files: IN and OUT.json.');
  if (values.noise === undefined) throw new UsageError('profile needs --noise START-END in seconds, or --noise auto.');
  await requireFolder(path(outPath));
  const chainPath = values.chain === undefined ? undefined : path(values.chain);
  await profileFile(
    path(inPath),
    path(outPath),
    { noise: parseNoise(values.noise), chainPath, channels: parseChannels(values.channels) },
    note,
  );
}

async function balance(args: string[]): Promise<void> {
  const text = { type: 'string' } as const;
  const { values, positionals } = parseArgs({
    args: joinNegativeNumbers(args),
    allowPositionals: true,
    options: { bed: text, loudness: text, under: text, alone: text, ceiling: text },
  });
  const outPath = positionals.pop();
  if (!outPath || positionals.length === 0) throw new UsageError('balance takes files of speech and OUT, the last one.');
  const inputs = [...positionals, ...(values.bed === undefined ? [] : [values.bed])].map(path);
  if (inputs.includes(path(outPath))) throw new UsageError('OUT is one of the files that go in; a recording is never overwritten.');
  await requireFolder(path(outPath));
  print(
    await balanceFiles(positionals.map(path), path(outPath), {
      bedPath: values.bed === undefined ? undefined : path(values.bed),
      integratedLufs: parseNumber('loudness', values.loudness, -40, -8) ?? -16,
      underLu: parseNumber('under', values.under, 0, 40) ?? 15,
      aloneLu: parseNumber('alone', values.alone, 0, 40) ?? 6,
      ceilingDbtp: parseNumber('ceiling', values.ceiling, -12, 0) ?? -1,
    }),
  );
}

/** Chain and target that a session or a report is told of. */
async function chainAndTarget({ chain, target }: { readonly chain?: string | undefined; readonly target?: string | undefined }) {
  return {
    chainJson: chain === undefined ? undefined : await readJson(path(chain), 'chain file'),
    targetJson: target === undefined ? undefined : await readJson(path(target), 'target'),
  };
}

async function bundle(args: string[]): Promise<void> {
  const text = { type: 'string' } as const;
  const { values, positionals } = parseArgs({ args, allowPositionals: true, options: { chain: text, target: text } });
  const outPath = positionals.pop();
  if (!outPath || positionals.length === 0) throw new UsageError('bundle takes sound files and OUT.zip, the last one.');
  if (!/\.zip$/i.test(outPath)) throw new UsageError(`A bundle ends in .zip; "${outPath}" was given.`);
  await requireFolder(path(outPath));
  const { sessions, recordings } = await bundleFiles(positionals.map(path), path(outPath), await chainAndTarget(values));
  print({ sessions: sessions.map(({ name }) => name), recordings: recordings.map(({ fileName, sha256 }) => ({ fileName, sha256 })) });
}

async function report(args: string[]): Promise<void> {
  const text = { type: 'string' } as const;
  const { values, positionals } = parseArgs({ args, allowPositionals: true, options: { chain: text, target: text } });
  const [before, after, outPath, ...more] = positionals;
  if (!before || !after || !outPath || more.length > 0)
    throw new UsageError('report takes three files: BEFORE, AFTER and OUT.html, .pdf or .json.');
  await requireFolder(path(outPath));
  const { passed } = await reportOf(path(before), path(after), path(outPath), await chainAndTarget(values));
  print({ passed });
}

async function main([command, ...args]: string[]): Promise<void> {
  switch (command) {
    case 'measure': {
      const [file, ...more] = args;
      if (!file || more.length > 0) throw new UsageError('measure takes one file.');
      return print(await measureFile(path(file), note));
    }
    case 'survey': {
      const [file, ...more] = args;
      if (!file || more.length > 0) throw new UsageError('survey takes one file.');
      return print(await surveyFile(path(file), note, showProgress()));
    }
    case 'clean':
      return clean(args);
    case 'batch':
      return batch(args);
    case 'report':
      return report(args);
    case 'bundle':
      return bundle(args);
    case 'unbundle': {
      const [file, folder, ...more] = args;
      if (!file || !folder || more.length > 0) throw new UsageError('unbundle takes BUNDLE.zip and an empty FOLDER.');
      return print(await unbundle(path(file), path(folder)));
    }
    case 'profile':
      return profile(args);
    case 'line-up': {
      const [first, second, ...more] = args;
      if (!first || !second || more.length > 0) throw new UsageError('line-up takes two files: FIRST and SECOND.');
      return print(await lineUpFiles(path(first), path(second)));
    }
    case 'balance':
      return balance(args);
    case 'treatments':
      return print(treatmentsAsJson());
    case undefined:
    case 'help':
    case '--help':
      return void process.stdout.write(`${HELP}\n`);
    default:
      throw new UsageError(
        `There is no command "${command}"; there are measure, survey, clean, batch, report, bundle, unbundle, profile, line-up, balance and treatments.`,
      );
  }
}

main(process.argv.slice(2)).catch((error: unknown) => {
  const expected = error instanceof UsageError || error instanceof DspError || error instanceof EngineError || error instanceof MediaError;
  const isArguments = (error as NodeJS.ErrnoException).code?.startsWith('ERR_PARSE_ARGS');
  const message = error instanceof Error ? error.message : String(error);
  process.stderr.write(`euphonos: ${message.replace(/\s*\n\s*/g, ' ')}\n`);
  process.exitCode = expected || isArguments ? 2 : 1;
});
