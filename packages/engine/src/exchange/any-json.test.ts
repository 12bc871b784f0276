import fc from 'fast-check';
import { DspError, parseProfileFile } from '@euphonos/dsp';
import { parseChainFile } from '../chains/chain-file.js';
import { requireTarget } from '../delivery/targets.js';
import { EngineError } from '../errors.js';
import { parseDocument } from '../document/parse.js';
import { parseBundle } from './bundle.js';

const readers: Readonly<Record<string, (given: unknown) => unknown>> = {
  chain: parseChainFile,
  profile: parseProfileFile,
  target: requireTarget,
  document: parseDocument,
  bundle: parseBundle,
};

describe.each(Object.entries(readers))('whatever JSON is given for a %s', (_, read) => {
  const refused = (given: unknown): boolean => {
    try {
      read(given);
      return false;
    } catch (error) {
      if (!(error instanceof EngineError || error instanceof DspError)) throw error;
      return /\w+ \w+/.test(error.message);
    }
  };

  test('is refused in words where it is no object', () => {
    for (const given of [null, undefined, 0, 1.5, '', 'text', true, [], [null], {}]) expect(refused(given)).toBe(true);
  });

  test('is refused in words, whatever it is', () => fc.assert(fc.property(fc.jsonValue(), refused)));
});
