import { parseChain, portableChain, type ChainSpec } from '@euphonos/dsp';
import { EngineError } from '../errors.js';

/** What a file of this kind says of itself. Raise the version with every change that older code cannot read. */
export const CHAIN_FORMAT = 'speech-chain';
export const CHAIN_VERSION = 1;
const LONGEST_NAME = 120;
const LONGEST_NOTE = 500;

/** A chain with a name, as JSON, for any recording: it names no times of one. */
export interface ChainFile {
  readonly format: typeof CHAIN_FORMAT;
  readonly version: typeof CHAIN_VERSION;
  readonly name: string;
  /** What it is for, in words. */
  readonly note: string;
  readonly treatments: ChainSpec['treatments'];
}

/** A chain as a file: times of the recording, and ids, are left out. */
export function chainToFile(chain: ChainSpec, name: string, note = ''): ChainFile {
  const treatments = portableChain(chain).treatments.map(({ id: _, ...settings }) => settings as ChainSpec['treatments'][number]);
  return {
    format: CHAIN_FORMAT,
    version: CHAIN_VERSION,
    name: name.trim().slice(0, LONGEST_NAME),
    note: note.trim().slice(0, LONGEST_NOTE),
    treatments,
  };
}

const fail = (rule: string): never => {
  throw new EngineError('chain-file', `This is no chain that can be read: ${rule}.`);
};

/** Reads a chain from untrusted JSON. @throws {EngineError} `chain-file` {DspError} when a treatment in it is wrong */
export function parseChainFile(value: unknown): ChainFile {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return fail('it must be a JSON object');
  const { format, version, name, note = '', treatments } = value as Record<string, unknown>;
  if (format !== CHAIN_FORMAT) fail(`"format" must be "${CHAIN_FORMAT}"`);
  if (version !== CHAIN_VERSION) fail(`"version" ${String(version)} is not known; version ${CHAIN_VERSION} is read`);
  if (typeof name !== 'string' || name.trim() === '') return fail('"name" must be a text that is not empty');
  if (typeof note !== 'string') return fail('"note" must be a text');
  return chainToFile(parseChain({ treatments }), name, note);
}

/** The chain of a file for use in a session: each treatment with an id of its own. */
export const chainOfFile = ({ treatments }: ChainFile, newId: () => string): ChainSpec => ({
  treatments: treatments.map((settings) => ({ ...settings, id: newId() })),
});
