// Compiles for Jest, with the globals of hot loops bound once a module: looking one up in Jest's sandbox costs more than the sine itself.
const { createTransformer } = require('@swc/jest');

const BOUND = [
  'Math',
  'Number',
  'Infinity',
  'NaN',
  'Float32Array',
  'Float64Array',
  'Uint8Array',
  'Int32Array',
  'Uint32Array',
  'Array',
  'Map',
  'Set',
];

const binding = (code) => {
  const names = BOUND.filter((name) => new RegExp(`\\b${name}\\b`).test(code));
  return names.length === 0 ? '' : `const { ${names.join(', ')} } = globalThis;`;
};
/** Behind "use strict", on its line, so that places in errors stay right. */
const bound = (code) => (code.startsWith('"use strict";') ? `"use strict";${binding(code)}${code.slice(13)}` : code);

module.exports = {
  createTransformer(options) {
    const swc = createTransformer(options);
    return {
      ...swc,
      getCacheKey: (...args) => `${swc.getCacheKey(...args)}-bound`,
      process(source, path, how) {
        const made = swc.process(source, path, how);
        return /\/node_modules\//.test(path) ? made : { ...made, code: bound(made.code) };
      },
    };
  },
};
