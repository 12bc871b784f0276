import { parseChain } from '@euphonos/dsp';
import { leadFrames } from './lead.js';

const lead = (...treatments: object[]): number => leadFrames(parseChain({ treatments }), 48000);
const spot = { startSeconds: 10, endSeconds: 14 };

test('a second is enough; a spot that looks at itself as a whole is heard from its beginning', () => {
  expect(lead({ kind: 'high-pass' })).toBe(24 * 2048);
  expect(lead({ kind: 'spots', spots: [{ ...spot, way: 'lower' }] })).toBe(24 * 2048);
  expect(lead({ kind: 'spots', bypassed: true, spots: [{ ...spot, way: 'noise' }] })).toBe(24 * 2048);
  for (const way of ['noise', 'replace']) {
    expect(lead({ kind: 'spots', spots: [{ ...spot, way }] })).toBeGreaterThan(24 * 2048 + 4 * 48000);
    expect(lead({ kind: 'spots', spots: [{ ...spot, way }] }) % 2048).toBe(0);
  }
});
