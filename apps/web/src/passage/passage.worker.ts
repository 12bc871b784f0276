import { findJoins, type ChainSpec, type FrequencyAxis, type KernelModule, type NoiseProfile } from '@euphonos/dsp';
import type { Lane, NoisePassageSpan, Span } from '@euphonos/engine';
import { readyFor } from '@euphonos/second-opinion';
import { expose, transfer } from 'comlink';
import { RecordingReader, type SampleSource } from '../audio/samples.js';
import { WholeEffects } from './whole-effects.js';
import { WholeMemory, type WholeRequest } from './whole-memory.js';
import type { MixedTrack, WholeMix } from './mixed-sum.js';
import { SpeechListener, type SpeechRequest } from './speech-in-mix.js';
import { bleedInMix } from './bleed-in-mix.js';
import { BalanceLevels } from './balance-levels.js';
import { RestSound, type RestTrack } from './rest-sound.js';
import { ChainMemory, type MemoryPlace, type MemoryRequest } from './chain-memory.js';
import { PreparedSound, type HeldMemories } from './prepared-sound.js';
import type { TrackSound } from '../audio/arranged.js';
import { FiguresComputer } from './figures-computer.js';
import { mixSpectra } from './mix-spectra.js';
import { renderSpan } from './span-render.js';
import { PassageComputer, type TreatedSpan } from './passage-computer.js';

/** Some twenty minutes of one channel. */
const MOST_KEPT_BYTES = 240e6;

let computer: PassageComputer | undefined;
let figures: FiguresComputer | undefined;
let prepared: PreparedSound | undefined;
let rest: RestSound | undefined;
let whole: WholeEffects | undefined;
let memory: ChainMemory | undefined;
let wholeMemory: WholeMemory | undefined;
let balance: BalanceLevels | undefined;
let speech: SpeechListener | undefined;
let mixKernels: KernelModule | undefined;
let mixRest: RestSound | undefined;
const open = (): PassageComputer => {
  if (!computer) throw new Error('The passage worker was asked before it was opened.');
  return computer;
};

const api = {
  open(source: SampleSource & { sampleRateHz: number }, kernels: KernelModule): void {
    computer = new PassageComputer(source, kernels);
    figures = new FiguresComputer(source, kernels);
    prepared = new PreparedSound(source, kernels);
  },
  async setChain(spec: ChainSpec, profile: NoiseProfile | undefined, treated: readonly TreatedSpan[]): Promise<void> {
    await readyFor(spec);
    open().setChain(spec, profile, treated);
    figures!.setChain(spec, profile);
  },
  setSound(sound: TrackSound): void {
    figures!.setSound(sound);
    prepared!.setSound(sound);
  },
  judge: (span: Span, floorDbfs: number | null) => figures!.judge(span, floorDbfs),
  async profile(spans: readonly NoisePassageSpan[], spec: ChainSpec) {
    await readyFor(spec);
    return figures!.profile(spans, spec);
  },
  figures: (span: Span) => figures!.figures(span),
  effects: (span: Span) => figures!.effects(span),
  clipEffects: (clipId: string) => figures!.clipEffects(clipId),
  gainTrace: (treatmentId: string) => figures!.gainTrace(treatmentId),
  price: (span: Span) => figures!.price(span),
  spectra: (span: Span) => figures!.spectra(span),
  /** The worker of the other tracks; it needs nothing else. */
  openRest(kernels: KernelModule): void {
    rest = new RestSound(kernels);
  },
  async setRest(tracks: readonly RestTrack[]): Promise<void> {
    await readyFor(...tracks.map(({ chain }) => chain));
    rest!.set(tracks);
  },
  /** What the chain on the whole does to the sum of all tracks. */
  async wholeEffects(mix: WholeMix, span: Span, profile: NoiseProfile | undefined) {
    await readyFor(...mix.tracks.map(({ track }) => track.chain));
    return whole!.measure(mix, span, profile);
  },
  async wholeProfile(mix: WholeMix, spans: readonly Span[]) {
    await readyFor(...mix.tracks.map(({ track }) => track.chain));
    return whole!.profile(mix, spans);
  },
  async judgeWhole(mix: WholeMix, span: Span) {
    await readyFor(...mix.tracks.map(({ track }) => track.chain));
    return whole!.judge(mix, span);
  },
  async restChunk(id: string, index: number) {
    const chunk = await rest!.chunk(id, index);
    return transfer(
      chunk,
      chunk.map(({ buffer }) => buffer),
    );
  },
  async preparedChunk(key: string, spec: ChainSpec, profile: NoiseProfile | undefined, index: number) {
    await readyFor(spec);
    const chunk = await prepared!.chunk(key, spec, profile, index);
    return transfer(
      chunk,
      chunk.map(({ buffer }) => buffer),
    );
  },
  /** The worker of what chains remember; it needs nothing else. */
  openMemory(source: SampleSource & { sampleRateHz: number }, kernels: KernelModule): void {
    memory = new ChainMemory(source, kernels);
  },
  async memories(request: MemoryRequest, from: MemoryPlace) {
    await readyFor(request.whole);
    return memory!.next(request, from);
  },
  /** The worker of all that is measured and learnt of the mix; it needs nothing else. What tracks sound like is made once for all of that. */
  openMix(kernels: KernelModule): void {
    const made = new RestSound(kernels, MOST_KEPT_BYTES);
    whole = new WholeEffects(kernels, made);
    wholeMemory = new WholeMemory(kernels, made);
    balance = new BalanceLevels(kernels, made);
    mixKernels = kernels;
    mixRest = made;
    speech = new SpeechListener(kernels, made);
  },
  async wholeMemories(request: WholeRequest, from: MemoryPlace) {
    await readyFor(...request.mix.tracks.map(({ track }) => track.chain));
    return wholeMemory!.next(request, from);
  },
  async trackLevels(track: RestTrack, place: readonly number[]) {
    await readyFor(track.chain);
    return balance!.track(track, place);
  },
  async mixLoudness(mix: WholeMix, profile: NoiseProfile | undefined) {
    await readyFor(...mix.tracks.map(({ track }) => track.chain));
    return balance!.mix(mix, profile);
  },
  async mixSpectra(mix: WholeMix, span: Span, profile: NoiseProfile | undefined) {
    await readyFor(...mix.tracks.map(({ track }) => track.chain));
    return mixSpectra(mixKernels!, mixRest!, mix, span, profile);
  },
  async talk(tracks: readonly MixedTrack[], request: Omit<SpeechRequest, 'speech' | 'bed'>) {
    await readyFor(...tracks.map(({ track }) => track.chain));
    return speech!.talk(tracks, request);
  },
  async renderSpan(mix: WholeMix, span: Span, which: 'source' | 'result', profile: NoiseProfile | undefined) {
    await readyFor(...mix.tracks.map(({ track }) => track.chain));
    const sound = await renderSpan(mixKernels!, mixRest!, mix, span, which, profile);
    return transfer(
      sound,
      sound.channels.map(({ buffer }) => buffer),
    );
  },
  bleed: (tracks: readonly RestTrack[]) => bleedInMix(mixKernels!, tracks),
  async bedJoins(source: SampleSource & { sampleRateHz: number }, { startFrame, endFrame }: Span) {
    const sound = await new RecordingReader(source).read(startFrame, endFrame);
    const mono = sound[0]!.map((_, n) => sound.reduce((sum, samples) => sum + samples[n]!, 0) / sound.length);
    return findJoins(mixKernels!, mono, source.sampleRateHz);
  },
  async speechInMix(request: SpeechRequest) {
    await readyFor(...[...request.speech, request.bed].map(({ track }) => track.chain));
    return speech!.measure(request);
  },
  /** What is rendered in the background, from what it remembers. */
  remember: (key: string, held: HeldMemories) => prepared!.remember(key, held),
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
