import { parseChain, type ChainSpec } from '@euphonos/dsp';
import { CHAIN_FORMAT, parseChainFile } from '@euphonos/engine';

/** A chain as a session stores it, or one that was kept under a name. @throws {DspError | EngineError} when it is neither */
export function chainOf(json: unknown): ChainSpec {
  const named = typeof json === 'object' && json !== null && (json as { format?: unknown }).format === CHAIN_FORMAT;
  return named ? { treatments: parseChainFile(json).treatments } : parseChain(json);
}
