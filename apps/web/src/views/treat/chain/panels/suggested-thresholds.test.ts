import { suggestedThresholds } from './suggested-thresholds.js';

test('thresholds lie above the gaps, apart by 4.5 dB, and clear of the words', () => {
  expect(suggestedThresholds(-60.2, -20)).toEqual({ closeDb: -54, openDb: -49.5 });
  // Hardly any distance: the words have the last word.
  expect(suggestedThresholds(-40, -28)).toEqual({ closeDb: -44.5, openDb: -40 });
  expect(suggestedThresholds(-110, -20)).toEqual({ closeDb: -90, openDb: -85.5 });
});
