import { defaultTreatment } from '../chain/chain-spec.js';
import type { Finding } from './findings.js';
import { moveFinding } from './move-finding.js';

test('places of a finding move, and those of what would mend it; levels and the first recording stay', () => {
  const spots = [{ startSeconds: 1, endSeconds: 2, lowHz: 100, highHz: 200, strengthPercent: 100 }];
  const finding: Finding = {
    kind: 'noise-passages',
    certainty: 1,
    spans: [{ startSeconds: 1.5, endSeconds: 4, dbfs: -60, withinDb: 2, driftDb: 0 }],
    suggestion: { ...defaultTreatment('spots'), spots },
  };
  expect(moveFinding(finding, 0)).toBe(finding);
  expect(moveFinding(finding, 10)).toMatchObject({
    spans: [{ startSeconds: 11.5, endSeconds: 14, dbfs: -60 }],
    suggestion: { kind: 'spots', spots: [{ ...spots[0], startSeconds: 11, endSeconds: 12 }] },
  });
  expect(moveFinding({ kind: 'clicks', certainty: 1, count: 1, perMinute: 2, atSeconds: [3], suggestion: null }, 10)).toMatchObject({
    atSeconds: [13],
    perMinute: 2,
  });
});
