// Reads files that it is told of over the line to its parent, as the product does, and says what became of each: "read", or the code of a refusal in
// words, or "unexpected: …".
import { readFile } from 'node:fs/promises';
import { DspError, parseProfileFile } from '@euphonos/dsp';
import {
  createDocument,
  EngineError,
  marksFromCsv,
  marksFromVtt,
  parseChainFile,
  parseDocument,
  readForeignJson,
  requireTarget,
  timelineFromOtio,
} from '@euphonos/engine';
import {
  decodeSound,
  hasPicture,
  MediaError,
  newReport,
  openBundle,
  probeSound,
  readBroadcast,
  readCues,
  readingNotes,
  statedStart,
} from '@euphonos/media';
import { recording } from './mutators.mjs';

const LIMITS = { mostBytes: 64 << 20 };

async function sound(path) {
  const facts = await probeSound(path);
  const report = newReport();
  for await (const block of decodeSound(path, facts, {}, report)) if (block.frames < 0) throw new Error('less than nothing');
  const notes = readingNotes(facts, report, facts.sampleRateHz);
  await readCues(path);
  await readBroadcast(path);
  await statedStart(path);
  return notes.length > 0 ? 'read, and said to be damaged' : 'read';
}

/** In the order in which a recording is read. */
async function film(path) {
  const outcome = await sound(path);
  await hasPicture(path);
  return outcome;
}

const json = async (path) => readForeignJson(await readFile(path), LIMITS);
const readers = {
  wav: sound,
  flac: sound,
  mp3: sound,
  m4a: sound,
  ogg: sound,
  mp4: film,
  mkv: film,
  zip: async (path) => {
    const open = await openBundle(path);
    try {
      for (const { sha256 } of open.bundle.recordings) for await (const part of await open.source(sha256)) if (part.length < 0) break;
    } finally {
      open.close();
    }
    return 'read';
  },
  json: async (path) => {
    const value = await json(path);
    const { format } = value ?? {};
    if (format === 'speech-chain') parseChainFile(value);
    else if (value?.document !== undefined) parseDocument(value.document);
    else if (value?.binHz !== undefined || value?.powers !== undefined) parseProfileFile(value);
    else requireTarget(value);
    return 'read';
  },
  otio: async (path) => (timelineFromOtio(await json(path), createDocument([recording]), [recording]), 'read'),
  csv: async (path) => (marksFromCsv(await readFile(path, 'utf8'), 48_000), 'read'),
  vtt: async (path) => (marksFromVtt(await readFile(path, 'utf8'), 48_000), 'read'),
};

process.on('message', async ({ path, kind }) => {
  try {
    process.send({ path, outcome: await readers[kind](path) });
  } catch (error) {
    const known = error instanceof MediaError || error instanceof EngineError || error instanceof DspError;
    const inWords = known && /\w+ \w+/.test(error.message);
    process.send({ path, outcome: inWords ? `refused: ${error.code}` : `unexpected: ${error?.stack ?? error}` });
  }
});
process.send({ ready: true });
