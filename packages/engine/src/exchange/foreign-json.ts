import { EngineError } from '../errors.js';

/** What JSON from elsewhere may be before any of it is built. */
export interface JsonLimits {
  readonly mostBytes: number;
  /** Objects and arrays in each other; a document has about twenty. */
  readonly mostDepth?: number;
}

/** Known to browsers and Node.js alike (WHATWG Encoding). */
declare const TextDecoder: new (label: 'utf-8', options: { fatal: true }) => { decode(bytes: Uint8Array): string };

const MOST_DEPTH = 100;
const [QUOTE, BACKSLASH, OPEN_BRACE, CLOSE_BRACE, OPEN_BRACKET, CLOSE_BRACKET] = [0x22, 0x5c, 0x7b, 0x7d, 0x5b, 0x5d];

/** How deep objects and arrays of a JSON text (RFC 8259, in UTF-8) lie in each other; what is no JSON is counted all the same. */
export function jsonDepth(bytes: Uint8Array): number {
  let [depth, deepest] = [0, 0];
  for (let at = 0; at < bytes.length; at++) {
    const byte = bytes[at];
    if (byte === QUOTE) {
      // To the end of the string: brackets in it count for nothing.
      for (at++; at < bytes.length && bytes[at] !== QUOTE; at++) if (bytes[at] === BACKSLASH) at++;
    } else if (byte === OPEN_BRACE || byte === OPEN_BRACKET) deepest = Math.max(deepest, ++depth);
    else if (byte === CLOSE_BRACE || byte === CLOSE_BRACKET) depth--;
  }
  return deepest;
}

/**
 * Reads JSON that came from elsewhere; its size and depth are known before it is built.
 * @throws {EngineError} `json-large`, `json-deep` or `json-broken`
 */
export function readForeignJson(bytes: Uint8Array, { mostBytes, mostDepth = MOST_DEPTH }: JsonLimits): unknown {
  if (bytes.length > mostBytes)
    throw new EngineError('json-large', `It has ${bytes.length} bytes; up to ${mostBytes} are read here.`, { mostBytes });
  const depth = jsonDepth(bytes);
  if (depth > mostDepth)
    throw new EngineError('json-deep', `Its parts lie ${depth} deep in each other; ${mostDepth} are read, a session has about twenty.`, {
      mostDepth,
    });
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes)) as unknown;
  } catch (error) {
    throw new EngineError('json-broken', `It is no JSON: ${(error as Error).message}.`);
  }
}
