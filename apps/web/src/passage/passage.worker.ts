import type { ChainSpec, FrequencyAxis, KernelModule, NoiseProfile } from '@euphonos/dsp';
import type { Lane, Span } from '@euphonos/engine';
import { expose, transfer } from 'comlink';
import type { SampleSource } from '../audio/samples.js';
import { PreparedSound } from './prepared-sound.js';
import { PassageComputer } from './passage-computer.js';

let computer: PassageComputer | undefined;
let prepared: PreparedSound | undefined;
const open = (): PassageComputer => {
  if (!computer) throw new Error('The passage worker was asked before it was opened.');
  return computer;
};

const api = {
  open(source: SampleSource & { sampleRateHz: number }, kernels: KernelModule): void {
    computer = new PassageComputer(source, kernels);
    prepared = new PreparedSound(source, kernels);
  },
  setChain: (spec: ChainSpec, profile: NoiseProfile | undefined) => open().setChain(spec, profile),
  judge: (span: Span, floorDbfs: number | null) => open().judge(span, floorDbfs),
  profile: (spans: readonly Span[], spec: ChainSpec) => open().profile(spans, spec),
  figures: (span: Span) => open().figures(span),
  effects: (span: Span) => open().effects(span),
  price: (span: Span) => open().price(span),
  spectra: (span: Span) => open().spectra(span),
  async preparedChunk(key: string, spec: ChainSpec, profile: NoiseProfile | undefined, index: number) {
    const chunk = await prepared!.chunk(key, spec, profile, index);
    return transfer(chunk, chunk.map(({ buffer }) => buffer));
  },
  async spectrogramTile(lane: Lane, axis: FrequencyAxis, level: number, index: number) {
    const tile = await open().spectrogramTile(lane, axis, level, index);
    return transfer(tile, [tile.buffer]);
  },
  async waveTile(lane: Lane, level: number, index: number) {
    const tile = await open().waveTile(lane, level, index);
    return transfer(tile, [tile.buffer]);
  },
};

export type PassageApi = typeof api;

expose(api);
