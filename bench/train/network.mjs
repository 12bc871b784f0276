// The network of the speech model, with its gradients: a dense layer, a gated recurrent layer (Cho et al. 2014, in the form
// of PyTorch's documentation), a dense layer. Everything lies in one WebAssembly memory, where ./matmul.ts multiplies.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from '../../scripts/lib/system.mjs';
import { folder } from '../sounds.mjs';

function loadMatmul() {
  const out = join(folder, 'matmul.wasm');
  execFileSync(process.execPath, [
    join(root, 'node_modules/assemblyscript/bin/asc.js'),
    join(root, 'bench/train/matmul.ts'),
    '-o',
    out,
    '--runtime',
    'stub',
    '--enable',
    'simd',
    '-O3',
    '--noAssert',
    '--use',
    'abort=',
    '--importMemory',
  ]);
  return new WebAssembly.Module(readFileSync(out));
}

export class Network {
  constructor({ inputs, hidden, outputs, batch, steps }, next) {
    Object.assign(this, { inputs, hidden, outputs, batch, steps });
    const shapes = {
      first: [inputs, hidden],
      firstBias: [1, hidden],
      into: [hidden, 3 * hidden],
      intoBias: [1, 3 * hidden],
      again: [hidden, 3 * hidden],
      againBias: [1, 3 * hidden],
      last: [hidden, outputs],
      lastBias: [1, outputs],
    };
    const rows = batch * steps;
    const work = {
      x: rows * inputs,
      a: rows * hidden,
      u: rows * 3 * hidden,
      v: rows * 3 * hidden,
      h: (rows + batch) * hidden,
      y: rows * outputs,
      dy: rows * outputs,
      dh: batch * hidden,
      du: rows * 3 * hidden,
      dv: rows * 3 * hidden,
      da: rows * hidden,
      turned: 3 * hidden * hidden + hidden * outputs + 64,
    };
    const weights = Object.values(shapes).reduce((sum, [r, c]) => sum + r * c, 0);
    const floats = Object.values(work).reduce((sum, n) => sum + n + 16, 0) + 4 * weights + 1000;
    const memory = new WebAssembly.Memory({ initial: Math.ceil((floats * 4) / 65536) + 2 });
    this.multiply = new WebAssembly.Instance(loadMatmul(), { env: { memory } }).exports.multiplyAdd;
    let at = 1024;
    const view = (count) => {
      const values = new Float32Array(memory.buffer, at, count);
      at += Math.ceil(count / 4) * 16;
      return values;
    };
    this.w = {};
    this.g = {};
    this.m = {};
    this.s = {};
    for (const [name, [r, c]] of Object.entries(shapes)) {
      this.w[name] = view(r * c);
      const scale = name.endsWith('Bias') ? 0 : Math.sqrt(3 / r);
      for (let i = 0; i < r * c; i++) this.w[name][i] = scale * next();
    }
    for (const into of [this.g, this.m, this.s]) for (const [name, [r, c]] of Object.entries(shapes)) into[name] = view(r * c);
    for (const [name, count] of Object.entries(work)) this[name] = view(count);
    this.shapes = shapes;
    this.updates = 0;
  }

  #mul(c, cAt, a, aAt, b, rows, columns, inner, aRow = inner, aColumn = 1) {
    this.multiply(c.byteOffset + 4 * cAt, a.byteOffset + 4 * aAt, b.byteOffset, rows, columns, inner, aRow, aColumn);
  }

  #fillRows(values, bias, rows) {
    const n = bias.length;
    for (let r = 0; r < rows; r++) values.set(bias, r * n);
  }

  /** x is laid out [step][batch][input]; fills y. */
  forward() {
    const { batch, steps, hidden: H, w, x, a, u, v, h, y } = this;
    const rows = batch * steps;
    this.#fillRows(a, w.firstBias, rows);
    this.#mul(a, 0, x, 0, w.first, rows, H, this.inputs);
    for (let i = 0; i < rows * H; i++) a[i] = Math.tanh(a[i]);
    this.#fillRows(u, w.intoBias, rows);
    this.#mul(u, 0, a, 0, w.into, rows, 3 * H, H);
    this.#fillRows(v, w.againBias, rows);
    h.fill(0, 0, batch * H);
    for (let t = 0; t < steps; t++) {
      const from = t * batch;
      this.#mul(v, from * 3 * H, h, from * H, w.again, batch, 3 * H, H);
      for (let b = 0; b < batch; b++) {
        const g = (from + b) * 3 * H;
        const o = (from + b) * H;
        const to = (from + batch + b) * H;
        for (let i = 0; i < H; i++) {
          // The gates replace what they are made of: u holds z, r, n; v keeps the recurrent part of n.
          const z = 1 / (1 + Math.exp(-(u[g + i] + v[g + i])));
          const r = 1 / (1 + Math.exp(-(u[g + H + i] + v[g + H + i])));
          const n = Math.tanh(u[g + 2 * H + i] + r * v[g + 2 * H + i]);
          u[g + i] = z;
          u[g + H + i] = r;
          u[g + 2 * H + i] = n;
          h[to + i] = (1 - z) * n + z * h[o + i];
        }
      }
    }
    this.#fillRows(y, w.lastBias, rows);
    this.#mul(y, 0, h, batch * H, w.last, rows, this.outputs, H);
    for (let i = 0; i < rows * this.outputs; i++) y[i] = 1 / (1 + Math.exp(-y[i]));
  }

  /** dy is the derivative of the loss by the outputs before their sigmoid. */
  backward() {
    const { batch, steps, hidden: H, outputs, inputs, w, g: grad, x, a, u, v, h, dy, dh, du, dv, da, turned } = this;
    const rows = batch * steps;
    for (const values of Object.values(grad)) values.fill(0);
    this.#mul(grad.last, 0, h, batch * H, dy, H, outputs, rows, 1, H);
    this.#sum(grad.lastBias, dy, rows);
    const lastTurned = turned.subarray(0, H * outputs);
    for (let i = 0; i < H; i++) for (let o = 0; o < outputs; o++) lastTurned[o * H + i] = w.last[i * outputs + o];
    const againTurned = turned.subarray(H * outputs, H * outputs + 3 * H * H);
    for (let i = 0; i < H; i++) for (let o = 0; o < 3 * H; o++) againTurned[o * H + i] = w.again[i * 3 * H + o];
    dh.fill(0);
    for (let t = steps - 1; t >= 0; t--) {
      const from = t * batch;
      this.#mul(dh, 0, dy, from * outputs, lastTurned, batch, H, outputs);
      for (let b = 0; b < batch; b++) {
        const g = (from + b) * 3 * H;
        const o = (from + b) * H;
        for (let i = 0; i < H; i++) {
          const d = dh[b * H + i];
          const z = u[g + i],
            r = u[g + H + i],
            n = u[g + 2 * H + i];
          const dn = d * (1 - z) * (1 - n * n);
          const dz = d * (h[o + i] - n) * z * (1 - z);
          const dr = dn * v[g + 2 * H + i] * r * (1 - r);
          du[g + i] = dv[g + i] = dz;
          du[g + H + i] = dv[g + H + i] = dr;
          du[g + 2 * H + i] = dn;
          dv[g + 2 * H + i] = dn * r;
          dh[b * H + i] = d * z;
        }
      }
      this.#mul(dh, 0, dv, from * 3 * H, againTurned, batch, H, 3 * H);
    }
    this.#mul(grad.again, 0, h, 0, dv, H, 3 * H, rows, 1, H);
    this.#sum(grad.againBias, dv, rows);
    this.#mul(grad.into, 0, a, 0, du, H, 3 * H, rows, 1, H);
    this.#sum(grad.intoBias, du, rows);
    const intoTurned = againTurned;
    for (let i = 0; i < H; i++) for (let o = 0; o < 3 * H; o++) intoTurned[o * H + i] = w.into[i * 3 * H + o];
    da.fill(0);
    this.#mul(da, 0, du, 0, intoTurned, rows, H, 3 * H);
    for (let i = 0; i < rows * H; i++) da[i] *= 1 - a[i] * a[i];
    this.#mul(grad.first, 0, x, 0, da, inputs, H, rows, 1, inputs);
    this.#sum(grad.firstBias, da, rows);
  }

  #sum(into, values, rows) {
    const n = into.length;
    for (let r = 0; r < rows; r++) for (let i = 0; i < n; i++) into[i] += values[r * n + i];
  }

  /** Adam (Kingma & Ba 2015, algorithm 1), gradients held to a norm. */
  update(rate, mostNorm = 1) {
    this.updates++;
    let norm = 0;
    for (const values of Object.values(this.g)) for (const x of values) norm += x * x;
    const hold = Math.min(1, mostNorm / Math.sqrt(norm + 1e-20));
    const [c1, c2] = [1 - 0.9 ** this.updates, 1 - 0.999 ** this.updates];
    for (const name of Object.keys(this.shapes)) {
      const [w, g, m, s] = [this.w[name], this.g[name], this.m[name], this.s[name]];
      for (let i = 0; i < w.length; i++) {
        const d = g[i] * hold;
        m[i] = 0.9 * m[i] + 0.1 * d;
        s[i] = 0.999 * s[i] + 0.001 * d * d;
        w[i] -= (rate * (m[i] / c1)) / (Math.sqrt(s[i] / c2) + 1e-8);
      }
    }
  }
}
