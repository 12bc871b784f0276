import type { BedJoin, ChainSpec, FrequencyAxis, KernelModule, ListRow, NoiseJudgement, NoiseProfile, Spoken } from '@euphonos/dsp';
import type { ChainPrice, GainTrace, Lane, NoisePassageSpan, Reel, Span } from '@euphonos/engine';
import { wrap, type Remote } from 'comlink';
import { loadKernels } from '../audio/kernels.js';
import type { TrackSound } from '../audio/arranged.js';
import { sourceOf, type SampleSource } from '../audio/samples.js';
import type { Effects, LaneFigures, Spectra } from './figures-computer.js';
import type { TreatedSpan } from './passage-computer.js';
import type { MemoryNews, MemoryPlace, MemoryRequest } from './chain-memory.js';
import type { HeldMemories } from './prepared-sound.js';
import type { RestTrack } from './rest-sound.js';
import type { MixedTrack, WholeMix } from './mixed-sum.js';
import type { SpeechInMix, SpeechRequest } from './speech-in-mix.js';
import type { SpanSound } from './span-render.js';
import type { MixSpectra } from './mix-spectra.js';
import type { MixLoudness, TrackLevels } from './balance-levels.js';
import type { WholeRequest } from './whole-memory.js';
import type { PassageApi } from './passage.worker.js';

export type Figures = Record<Lane, LaneFigures>;

/** A worker with a task of its own. */
interface Helper {
  readonly worker: Worker;
  readonly remote: Remote<PassageApi>;
  ready: Promise<unknown>;
}

const startWorker = (): Worker => new Worker(new URL('./passage.worker.ts', import.meta.url), { type: 'module' });

/**
 * Computes pictures and figures of a track, in a worker each: the figures of a minute take a second, for which no
 * picture should wait.
 */
export class Passage {
  readonly #workers = [startWorker(), startWorker()] as const;
  readonly #pictures: Remote<PassageApi> = wrap<PassageApi>(this.#workers[0]);
  readonly #figures: Remote<PassageApi> = wrap<PassageApi>(this.#workers[1]);
  /** Renders what cannot run in the audio clock; started with the first such treatment. */
  #preparing: Helper | undefined;
  /** Mixes the other tracks; started when they are first heard. */
  #rest: Helper | undefined;
  /** Learns what the chain remembers; started when that is first asked for. */
  #memory: Helper | undefined;
  /** Measures and learns of the mix; started when somebody looks at the whole. */
  #mix: Helper | undefined;
  readonly #ready: Promise<unknown>;
  /** Counts the states of the chain: pictures of an older one are out of date. */
  version = 0;
  /** Counts the states of the clips. */
  soundVersion = 0;
  #sound: TrackSound | undefined;

  constructor(private readonly source: SampleSource & { readonly sampleRateHz: number }) {
    this.#ready = loadKernels().then((kernels) => Promise.all([this.#pictures.open(source, kernels), this.#figures.open(source, kernels)]));
  }

  async setChain(spec: ChainSpec, profile: NoiseProfile | null, treated: readonly TreatedSpan[] = []): Promise<void> {
    this.version++;
    await this.#ready;
    await Promise.all([this.#pictures, this.#figures].map((remote) => remote.setChain(spec, profile ?? undefined, treated)));
  }

  /** Other clips: what is rendered for the ear is of these from now on. */
  prepareFor(sound: TrackSound): void {
    this.#sound = sound;
    const preparing = this.#preparing;
    if (preparing) preparing.ready = preparing.ready.then(() => preparing.remote.setSound(sound));
  }

  /** Other clips: figures are of these from now on. Pictures are of the recording and stay. */
  async setSound(sound: TrackSound): Promise<void> {
    this.soundVersion++;
    await this.#ready;
    await this.#figures.setSound(sound);
  }

  async judge(span: Span, floorDbfs: number | null): Promise<NoiseJudgement> {
    await this.#ready;
    return this.#figures.judge(span, floorDbfs);
  }

  async profile(spans: readonly NoisePassageSpan[], spec: ChainSpec): Promise<NoiseProfile> {
    await this.#ready;
    return this.#figures.profile(spans, spec);
  }

  async figures(span: Span): Promise<Figures> {
    await this.#ready;
    return this.#figures.figures(span);
  }

  /** What each treatment does in a span. */
  async effects(span: Span): Promise<Effects> {
    await this.#ready;
    return this.#figures.effects(span);
  }

  /** What each treatment of a clip's own chain does. */
  async clipEffects(clipId: string): Promise<Effects> {
    await this.#ready;
    return this.#figures.clipEffects(clipId);
  }

  /** What one treatment does to the level over the whole track. */
  async gainTrace(treatmentId: string): Promise<GainTrace | null> {
    await this.#ready;
    return this.#figures.gainTrace(treatmentId);
  }

  /** What the noise reduction takes and costs at every depth. */
  async price(span: Span): Promise<ChainPrice | null> {
    await this.#ready;
    return this.#figures.price(span);
  }

  /** Long-term spectra of source and result over a span. */
  async spectra(span: Span): Promise<Spectra> {
    await this.#ready;
    return this.#figures.spectra(span);
  }

  async #remember(key: string, held: HeldMemories): Promise<void> {
    const { ready, remote } = this.#prepare();
    await ready;
    await remote.remember(key, held);
  }

  /** A chunk of the track through the first part of a chain. */
  async preparedChunk(key: string, spec: ChainSpec, profile: NoiseProfile | null, index: number): Promise<Float32Array[]> {
    const { ready, remote } = this.#prepare();
    await ready;
    return remote.preparedChunk(key, spec, profile ?? undefined, index);
  }

  #prepare(): Helper {
    if (!this.#preparing) {
      const worker = startWorker();
      const remote = wrap<PassageApi>(worker);
      const opened = loadKernels().then((kernels) => remote.open(this.source, kernels));
      this.#preparing = { worker, remote, ready: opened.then(() => this.#sound && remote.setSound(this.#sound)) };
    }
    return this.#preparing;
  }

  /** What the chain remembers, from a place on, as far as it is known after a moment's work. */
  async memories(request: MemoryRequest, from: MemoryPlace): Promise<MemoryNews> {
    this.#memory ??= this.#help((remote, kernels) => remote.openMemory(this.source, kernels));
    await this.#memory.ready;
    const news = await this.#memory.remote.memories(request, from);
    if (news.prepared && news.prepared.held.length > 0) await this.#remember(request.preparedKey, news.prepared);
    return news;
  }

  /** The same of the chain on the whole. */
  async wholeMemories(request: WholeRequest, from: MemoryPlace): Promise<MemoryNews> {
    return (await this.#mixer()).wholeMemories(request, from);
  }

  /** How loud a track and its clips are, where it stands in the mix. */
  async trackLevels(track: RestTrack, place: readonly number[]): Promise<TrackLevels> {
    return (await this.#mixer()).trackLevels(track, place);
  }

  /** How loud all of them together are, over time. */
  async mixLoudness(mix: WholeMix, profile: NoiseProfile | null): Promise<MixLoudness> {
    return (await this.#mixer()).mixLoudness(mix, profile ?? undefined);
  }

  /** Who speaks when, and how far that stands above a bed. */
  async speechInMix(request: SpeechRequest): Promise<SpeechInMix> {
    return (await this.#mixer()).speechInMix(request);
  }

  /** Places of a bed that can be joined, in frames from the beginning of the span. */
  async bedJoins(reel: Reel, span: Span): Promise<BedJoin[]> {
    return (await this.#mixer()).bedJoins({ ...sourceOf(reel), sampleRateHz: this.source.sampleRateHz }, span);
  }

  /** Where each of these tracks hears somebody else only. */
  async bleed(tracks: readonly RestTrack[]): Promise<ListRow[][]> {
    return (await this.#mixer()).bleed(tracks);
  }

  /** Long-term spectra of a span of a mix, in third octaves. */
  async mixSpectra(mix: WholeMix, span: Span, profile: NoiseProfile | null): Promise<MixSpectra> {
    return (await this.#mixer()).mixSpectra(mix, span, profile ?? undefined);
  }

  /** Where somebody speaks on each of these tracks. */
  async talk(tracks: readonly MixedTrack[], request: Omit<SpeechRequest, 'speech' | 'bed'>): Promise<(readonly Spoken[])[]> {
    return (await this.#mixer()).talk(tracks, request);
  }

  /** A span of a mix as sound. */
  async renderSpan(mix: WholeMix, span: Span, which: 'source' | 'result', profile: NoiseProfile | null): Promise<SpanSound> {
    return (await this.#mixer()).renderSpan(mix, span, which, profile ?? undefined);
  }

  async #mixer(): Promise<Remote<PassageApi>> {
    this.#mix ??= this.#help((remote, kernels) => remote.openMix(kernels));
    await this.#mix.ready;
    return this.#mix.remote;
  }

  #help(open: (remote: Remote<PassageApi>, kernels: KernelModule) => Promise<unknown>): Helper {
    const worker = startWorker();
    const remote = wrap<PassageApi>(worker);
    return { worker, remote, ready: loadKernels().then((kernels) => open(remote, kernels)) };
  }

  /** The other tracks from now on. */
  setRest(tracks: readonly RestTrack[]): void {
    const rest = this.#restHelper();
    rest.ready = rest.ready.then(() => rest.remote.setRest(tracks));
  }

  #restHelper(): Helper {
    return (this.#rest ??= this.#help((remote, kernels) => remote.openRest(kernels)));
  }

  /** What the chain on the whole does to the sum of all tracks. */
  async wholeEffects(mix: WholeMix, span: Span, profile: NoiseProfile | null): Promise<Effects> {
    return (await this.#mixer()).wholeEffects(mix, span, profile ?? undefined);
  }

  /** The noise of all tracks together. */
  async wholeProfile(mix: WholeMix, spans: readonly Span[]): Promise<NoiseProfile> {
    return (await this.#mixer()).wholeProfile(mix, spans);
  }

  async judgeWhole(mix: WholeMix, span: Span): Promise<NoiseJudgement> {
    return (await this.#mixer()).judgeWhole(mix, span);
  }

  /** A chunk of one of the other tracks. */
  async restChunk(id: string, index: number): Promise<Float32Array[]> {
    const rest = this.#rest!;
    await rest.ready;
    return rest.remote.restChunk(id, index);
  }

  async spectrogramTile(lane: Lane, axis: FrequencyAxis, level: number, index: number): Promise<Uint8Array> {
    await this.#ready;
    return this.#pictures.spectrogramTile(lane, axis, level, index);
  }

  async waveTile(lane: Lane, level: number, index: number): Promise<Float32Array> {
    await this.#ready;
    return this.#pictures.waveTile(lane, level, index);
  }

  close(): void {
    for (const worker of this.#workers) worker.terminate();
    for (const helper of [this.#preparing, this.#rest, this.#memory, this.#mix]) helper?.worker.terminate();
  }
}
