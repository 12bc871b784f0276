import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const COMPUTES = ['@euphonos/dsp', '@euphonos/engine', '@euphonos/second-opinion', '@euphonos/media'];

let known: string | undefined;

/** Names the code that computes sound, on this version of Node.js: another one may come to other bits. */
export function codeKey(): string {
  if (known) return known;
  const hash = createHash('sha256').update(process.versions.node);
  for (const name of COMPUTES) {
    const folder = dirname(fileURLToPath(import.meta.resolve(name)));
    const files = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((file) => file.endsWith('.js'));
    for (const file of files.sort()) hash.update(file).update(readFileSync(join(folder, file)));
  }
  return (known = hash.digest('hex'));
}
