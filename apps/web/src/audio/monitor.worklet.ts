import { TimeStretch, type ChainSpec, type PlanarBlock } from '@euphonos/dsp';
import {
  ChunkStore,
  Levels,
  Memories,
  Monitor,
  QUANTUM_FRAMES,
  splitChain,
  type LevelTable,
  type MonitorSource,
  type Span,
} from '@euphonos/engine';
import {
  OUTPUT_CHANNELS,
  PROCESSOR_NAME,
  type MonitorCommand,
  type MonitorOptions,
  type MixNews,
  type MonitorReport,
  type SourceNews,
} from './protocol.js';

/** A report every 12 quanta: 32 ms at 48 kHz. */
const REPORT_QUANTA = 12;

/** The monitor in the audio thread: the same engine as everywhere, fed and steered through its port. */
class MonitorProcessor extends AudioWorkletProcessor {
  /** Of the track before its chain, and of what was rendered of it in the background, by number. */
  readonly #stores = new Map<number, ChunkStore>();
  #source: SourceNews;
  /** Stores of the other tracks. */
  #beside: ReadonlySet<number> = new Set();
  readonly #monitor: Monitor;
  readonly #stretch: TimeStretch;
  #loop: Span | null = null;
  readonly #pull = (into: PlanarBlock): void => this.#monitor.process(into);
  #profile: Extract<MonitorCommand, { type: 'profile' }>['profile'] = null;
  #memories: Memories | null = null;
  #ofWhole: Memories | null = null;
  #quanta = 0;
  #plays = 0;
  #lastStatus = '';

  constructor({ processorOptions }: { processorOptions: unknown }) {
    super();
    const { kernels, channels, source } = processorOptions as MonitorOptions;
    this.#source = source;
    this.#monitor = new Monitor({ kernels, channels, sampleRateHz: sampleRate }, this.#opened(source));
    this.#stretch = new TimeStretch(sampleRate, OUTPUT_CHANNELS, QUANTUM_FRAMES);
    this.port.onmessage = ({ data }) => this.#take(data as MonitorCommand);
  }

  #opened(source: SourceNews): MonitorSource {
    this.#source = source;
    return { store: this.#storeOf(source.store), lengthFrames: source.lengthFrames, levels: levelsOf(source.levels) };
  }

  /** A new store replaces the older ones but those of the track and of the others; a chain that still sounds keeps what it has. */
  #storeOf(number: number, lengthFrames = this.#source.lengthFrames): ChunkStore {
    const wanted = number || this.#source.store;
    const found = this.#stores.get(wanted);
    if (found) return found;
    for (const older of this.#stores.keys())
      if (older !== this.#source.store && !this.#beside.has(older) && older < wanted) this.#stores.delete(older);
    const made = new ChunkStore(lengthFrames);
    this.#stores.set(wanted, made);
    return made;
  }

  #setChain(spec: ChainSpec, prepared: number): void {
    this.#monitor.setChain(splitChain(spec).live, this.#profile ?? undefined, this.#storeOf(prepared), spec);
  }

  /** Of another sound or profile nothing is remembered yet. */
  #forget(): void {
    this.#memories = null;
    this.#monitor.setMemories(null);
  }

  #remember({ key, spacingFrames, held }: Extract<MonitorCommand, { type: 'memories' }>): void {
    if (this.#memories?.key !== key || this.#memories.spacingFrames !== spacingFrames)
      this.#memories = new Memories(key, sampleRate, spacingFrames);
    for (const [index, remembered] of held) this.#memories.put(index, remembered);
    this.#monitor.setMemories(this.#memories);
  }

  #rememberWhole({ key, spacingFrames, held }: Extract<MonitorCommand, { type: 'whole-memories' }>): void {
    if (key === '') this.#ofWhole = null;
    else if (this.#ofWhole?.key !== key || this.#ofWhole.spacingFrames !== spacingFrames)
      this.#ofWhole = new Memories(key, sampleRate, spacingFrames);
    for (const [index, remembered] of held) this.#ofWhole?.put(index, remembered);
    this.#monitor.setWholeMemories(this.#ofWhole);
  }

  /** What is no longer heard beside goes with the next store that comes; a track that fades out keeps its own until then. */
  #setMix({ channels, ownGains, beside, lengthFrames }: MixNews): void {
    this.#beside = new Set(beside.map(({ store }) => store));
    monitorStores(this.#stores, beside);
    this.#monitor.setMix({
      channels,
      ownGains,
      lengthFrames,
      beside: beside.map((track) => ({ ...track, store: this.#stores.get(track.store)! })),
    });
  }

  #take(command: MonitorCommand): void {
    const monitor = this.#monitor;
    switch (command.type) {
      case 'profile':
        this.#forget();
        this.#profile = command.profile;
        return this.#setChain(command.spec, command.prepared);
      case 'chain':
        return this.#setChain(command.spec, command.prepared);
      case 'source':
        this.#plays++;
        this.#forget();
        return monitor.setSource(
          this.#opened(command.source),
          splitChain(command.spec).live,
          command.frame,
          this.#storeOf(command.prepared),
          command.spec,
        );
      case 'memories':
        return this.#remember(command);
      case 'levels':
        return monitor.setLevels(levelsOf(command.levels));
      case 'mix':
        return this.#setMix(command.mix);
      case 'whole':
        return monitor.setWhole(command.spec, command.profile ?? undefined);
      case 'whole-memories':
        return this.#rememberWhole(command);
      case 'lane':
        return monitor.setLane(command.lane);
      case 'gains':
        return monitor.setLaneGains(command.gainsDb);
      case 'loop':
        this.#loop = command.loop;
        return monitor.setLoop(command.loop);
      case 'speed':
        return this.#stretch.setSpeed(command.speed);
      case 'play':
        this.#plays++;
        return monitor.play(command.frame);
      case 'stop':
        return monitor.stop();
      case 'chunk':
        return this.#stores.get(command.store)?.put(command.index, command.channels);
      case 'drop':
        return this.#stores.get(command.store)?.drop(command.index);
    }
  }

  /** Where it sounds: what plays at another speed has been read a little ahead. */
  get #heardFrame(): number {
    const { frame } = this.#monitor;
    const heard = frame - this.#stretch.aheadFrames;
    const loop = this.#loop;
    const wrapped = loop !== null && frame >= loop.startFrame && frame < loop.endFrame && heard < loop.startFrame;
    return Math.max(0, wrapped ? heard + loop.endFrame - loop.startFrame : heard);
  }

  process(_: Float32Array[][], [output]: Float32Array[][]): boolean {
    if (!output || output[0]?.length !== QUANTUM_FRAMES) return true;
    const monitor = this.#monitor;
    const frame = this.#heardFrame;
    this.#stretch.process(output, QUANTUM_FRAMES, this.#pull);
    if (monitor.status === 'stopped' && this.#stretch.speed === 1) this.#stretch.reset();
    const changed = monitor.status !== this.#lastStatus;
    if (changed || (++this.#quanta % REPORT_QUANTA === 0 && monitor.status !== 'stopped')) {
      this.#lastStatus = monitor.status;
      const report: MonitorReport = {
        status: monitor.status,
        frame,
        contextSeconds: currentTime,
        meters: monitor.mixer.read(),
        plays: this.#plays,
        exact: monitor.exact,
        awaited: monitor.awaited,
        speed: this.#stretch.speed,
        leaving: monitor.leaving,
      };
      this.port.postMessage(report);
    }
    return true;
  }
}

/** A store for each of the other tracks that has none yet. */
function monitorStores(stores: Map<number, ChunkStore>, beside: MixNews['beside']): void {
  for (const { store, lengthFrames } of beside) if (!stores.has(store)) stores.set(store, new ChunkStore(lengthFrames));
}

const levelsOf = (table: LevelTable | null): Levels | null => table && new Levels(table);

registerProcessor(PROCESSOR_NAME, MonitorProcessor);
