import { ChunkStore, Monitor, QUANTUM_FRAMES } from '@euphonos/engine';
import { PROCESSOR_NAME, type MonitorCommand, type MonitorOptions, type MonitorReport } from './protocol.js';

/** A report every 12 quanta: 32 ms at 48 kHz. */
const REPORT_QUANTA = 12;

/** The monitor in the audio thread: the same engine as everywhere, fed and steered through its port. */
class MonitorProcessor extends AudioWorkletProcessor {
  readonly #store: ChunkStore;
  readonly #monitor: Monitor;
  #profile: Extract<MonitorCommand, { type: 'profile' }>['profile'] = null;
  #quanta = 0;
  #plays = 0;
  #lastStatus = '';

  constructor({ processorOptions }: { processorOptions: unknown }) {
    super();
    const { kernels, channels, lengthFrames } = processorOptions as MonitorOptions;
    this.#store = new ChunkStore(lengthFrames);
    this.#monitor = new Monitor({ kernels, channels, sampleRateHz: sampleRate }, lengthFrames, this.#store);
    this.port.onmessage = ({ data }) => this.#take(data as MonitorCommand);
  }

  #take(command: MonitorCommand): void {
    const monitor = this.#monitor;
    switch (command.type) {
      case 'profile':
        this.#profile = command.profile;
        return monitor.setChain(command.spec, this.#profile ?? undefined);
      case 'chain':
        return monitor.setChain(command.spec, this.#profile ?? undefined);
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
        return this.#store.put(command.index, command.channels);
      case 'drop':
        return this.#store.drop(command.index);
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
