// Trains the speech model: node bench/train/train.mjs [minutes] [hidden]. Writes packages/dsp/src/noise/speech-weights.ts.
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { SPEECH_BANDS } from '../../packages/dsp/dist/noise/speech-bands.js';
import { root } from '../../scripts/lib/system.mjs';
import { numbers, talkers } from '../speech.mjs';
import { LOOK_AHEAD, Mixes } from './mixes.mjs';
import { Network } from './network.mjs';

const minutes = Number(process.argv[2] ?? 12);
const hidden = Number(process.argv[3] ?? 64);
const out = process.argv[4] ?? join(root, 'packages/dsp/src/noise/speech-weights.ts');
const BATCH = 32;
const STEPS = 192;
/** Talkers that the bench listens to are not among them. Other speeds make other voices of one. */
const taught = [
  { talker: talkers.find(({ voice }) => voice.startsWith('it_')), factors: [0.8, 0.9, 1, 1.12, 1.3] },
  { talker: talkers.find(({ voice }) => voice.startsWith('ru_')), factors: [0.66, 0.8, 0.92, 1, 1.1] },
];
const kernels = new WebAssembly.Module(readFileSync(join(root, 'packages/dsp/kernels/kernels.wasm')));
const next = numbers(2026);
const mixes = new Mixes(kernels, taught, next);
const network = new Network({ inputs: SPEECH_BANDS, hidden, outputs: SPEECH_BANDS, batch: BATCH, steps: STEPS }, next);
const target = new Float32Array(BATCH * STEPS * SPEECH_BANDS);
const started = Date.now();
let shown = 0,
  loss = 0,
  steps = 0;
while (Date.now() - started < minutes * 60000) {
  const done = (Date.now() - started) / (minutes * 60000);
  mixes.renew();
  for (let b = 0; b < BATCH; b++) mixes.write(network.x, target, STEPS, BATCH, b);
  network.forward();
  const { y, dy } = network;
  let sum = 0;
  for (let i = 0; i < y.length; i++) {
    const wanted = target[i];
    if (Number.isNaN(wanted)) {
      dy[i] = 0;
      continue;
    }
    // Squared difference of amplitudes: what is faint counts too.
    const p = Math.sqrt(y[i] + 1e-6);
    const off = p - Math.sqrt(wanted);
    sum += off * off;
    dy[i] = ((off / p) * y[i] * (1 - y[i])) / (BATCH * STEPS);
  }
  network.backward();
  network.update(0.002 * (0.02 + 0.98 * 0.5 * (1 + Math.cos(Math.PI * done))) * Math.min(1, (network.updates + 1) / 50));
  loss += sum / y.length;
  steps++;
  if (steps - shown >= 50) {
    console.log(`${((Date.now() - started) / 1000).toFixed(0)} s  step ${steps}  loss ${(loss / (steps - shown)).toFixed(5)}`);
    shown = steps;
    loss = 0;
  }
}
/** Eight bits a weight, one scale a matrix row would be too fine: one scale a column, which is one unit's. */
function packed(values, rows, columns) {
  const scales = Float32Array.from({ length: columns }, (_, c) => {
    let most = 1e-9;
    for (let r = 0; r < rows; r++) most = Math.max(most, Math.abs(values[r * columns + c]));
    return most / 127;
  });
  const steps8 = Int8Array.from(values, (x, i) => Math.round(x / scales[i % columns]));
  return Buffer.concat([Buffer.from(scales.buffer), Buffer.from(steps8.buffer)]).toString('base64');
}
const entries = Object.entries(network.shapes).map(([name, [rows, columns]]) =>
  name.endsWith('Bias')
    ? `  ${name}: '${Buffer.from(Float32Array.from(network.w[name]).buffer).toString('base64')}',`
    : `  ${name}: '${packed(network.w[name], rows, columns)}',`,
);
writeFileSync(
  out,
  `// Made by bench/train/train.mjs (${minutes} min, ${steps} steps of ${BATCH} × ${STEPS} frames) from prompts under CC-BY 3.0: see THIRD-PARTY.md.
// Matrices: one float32 scale a column, then int8 steps by rows; biases: float32; all in base64, little endian.
export const speechWeights = {
  hidden: ${hidden},
  lookAhead: ${LOOK_AHEAD},
${entries.join('\n')}
} as const;
`,
);
console.log(`${steps} steps, written to ${out}`);
