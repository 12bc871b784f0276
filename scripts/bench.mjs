// npm run bench [clean|memory|worklet|page|quality|room-clicks|survey|noise|line-up|chains|levels|bleed|soundcheck|mutated|faults|scale|day]: figures as ratios within one run, or against the limit that they must
// keep. Without a name all of them but the last four, one after the other.
import { ensureBuild, ensureNodeModules, ensurePackages, say } from './lib/system.mjs';

const parts = [
  'clean',
  'memory',
  'worklet',
  'page',
  'quality',
  'room-clicks',
  'survey',
  'noise',
  'line-up',
  'chains',
  'levels',
  'bleed',
  'soundcheck',
];
/** They take up to hours: by their names only. */
const byName = ['mutated', 'faults', 'scale', 'day'];
const wanted = process.argv.slice(2);
const unknown = wanted.find((name) => ![...parts, ...byName].includes(name));
if (unknown) {
  console.error(`There is no bench "${unknown}"; there are ${[...parts, ...byName].join(', ')}.`);
  process.exit(2);
}
ensurePackages(['ffmpeg', 'postgresql', 'chromium']);
ensureNodeModules();
ensureBuild();
let kept = true;
for (const name of wanted.length > 0 ? wanted : parts) {
  say(`\n${name}`);
  const { run } = await import(`../bench/${name}.mjs`);
  for (const { what, value, limit, unit = '', atLeast = false } of await run()) {
    const good = limit === undefined || (atLeast ? value >= limit : value <= limit);
    kept &&= good;
    const asked = limit === undefined ? '' : `   ${atLeast ? 'at least' : 'at most'} ${limit}${unit}   ${good ? 'kept' : 'MISSED'}`;
    say(`  ${what.padEnd(64)} ${value.toFixed(value < 10 ? 2 : 0).padStart(8)}${unit}${asked}`);
  }
}
process.exit(kept ? 0 : 1);
