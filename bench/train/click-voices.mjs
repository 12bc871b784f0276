// Writes the tuned half of the full-band voices for bench/train/clicks.py.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fullBand, people } from '../full-band.mjs';
import { folder } from '../sounds.mjs';

for (const [name, person] of Object.entries(people.tuned))
  writeFileSync(join(folder, `click-voice-${name.replace(/\W+/g, '-')}`), Buffer.from(fullBand(person, 60, -100).buffer));
