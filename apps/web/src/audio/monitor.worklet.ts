import { ChunkStore, Monitor, QUANTUM_FRAMES } from '@euphonos/engine';
import { PROCESSOR_NAME, type MonitorCommand, type MonitorOptions, type MonitorReport } from './protocol.js';

/** A report every 12 quanta: 32 ms at 48 kHz. */
const REPORT_QUANTA = 12;

/** The monitor in the audio thread: the same engine as everywhere, fed and steered through its port. */
class MonitorProcessor extends AudioWorkletProcessor {
  /** The recording (0), and what was rendered of it in the background, by number. */
  readonly #stores = new Map<number, ChunkStore>();
  readonly #lengthFrames: number;
  readonly #monitor: Monitor;
  #profile: Extract<MonitorCommand, { type: 'profile' }>['profile'] = null;
  #quanta = 0;
  #plays = 0;
  #lastStatus = '';

  constructor({ processorOptions }: { processorOptions: unknown }) {
    super();
    const { kernels, channels, lengthFrames } = processorOptions as MonitorOptions;
    this.#lengthFrames = lengthFrames;
    this.#monitor = new Monitor({ kernels, channels, sampleRateHz: sampleRate }, lengthFrames, this.#storeOf(0));
    this.port.onmessage = ({ data }) => this.#take(data as MonitorCommand);
  }

  /** A new rendering replaces the older ones; a chain that still sounds keeps what it has. */
  #storeOf(prepared: number): ChunkStore {
    const found = this.#stores.get(prepared);
    if (found) return found;
    for (const older of this.#stores.keys()) if (older !== 0 && older < prepared) this.#stores.delete(older);
    const made = new ChunkStore(this.#lengthFrames);
    this.#stores.set(prepared, made);
    return made;
  }

  #take(command: MonitorCommand): void {
    const monitor = this.#monitor;
    switch (command.type) {
      case 'profile':
        this.#profile = command.profile;
        return monitor.setChain(command.spec, this.#profile ?? undefined, this.#storeOf(command.prepared));
      case 'chain':
        return monitor.setChain(command.spec, this.#profile ?? undefined, this.#storeOf(command.prepared));
      case 'lane':
        return monitor.setLane(command.lane);
      case 'gains':
        return monitor.setLaneGains(command.gainsDb);
      case 'loop':
        return monitor.setLoop(command.loop);
      case 'play':
        this.#plays++;
        return monitor.play(command.frame);
      case 'stop':
        return monitor.stop();
      case 'chunk':
        return this.#storeOf(command.prepared).put(command.index, command.channels);
      case 'drop':
        return this.#stores.get(command.prepared)?.drop(command.index);
    }
  }

  process(_: Float32Array[][], [output]: Float32Array[][]): boolean {
    if (!output || output[0]?.length !== QUANTUM_FRAMES) return true;
    const monitor = this.#monitor;
    const frame = monitor.frame;
    monitor.process(output);
    const changed = monitor.status !== this.#lastStatus;
    if (changed || (++this.#quanta % REPORT_QUANTA === 0 && monitor.status !== 'stopped')) {
      this.#lastStatus = monitor.status;
      const report: MonitorReport = { status: monitor.status, frame, contextSeconds: currentTime, meters: monitor.mixer.read(), plays: this.#plays, leaving: monitor.leaving };
      this.port.postMessage(report);
    }
    return true;
  }
}

registerProcessor(PROCESSOR_NAME, MonitorProcessor);
