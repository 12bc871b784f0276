import { parseChain } from '@euphonos/dsp';
import { partFramesAt } from '@euphonos/engine';
import { readyFor } from '@euphonos/second-opinion';
import { RATE_HZ } from '../../dsp/src/testing/signals.js';
import { talk } from '../../engine/src/testing/everything.js';
import { expectJoined } from '../../engine/src/testing/joined-parts.js';

test('deep noise reduction in parts: the network that was trained elsewhere remembers, too', async () => {
  const spec = parseChain({ treatments: [{ kind: 'noise-reduction', mode: 'voice', network: 'deep' }] });
  await readyFor(spec);
  expectJoined(spec, partFramesAt(RATE_HZ, 3), talk.subarray(0, 7.2 * RATE_HZ));
});
