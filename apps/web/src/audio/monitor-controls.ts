import type { ChainSpec, NoiseProfile } from '@euphonos/dsp';
import type { Lane } from '@euphonos/engine';
import type { MonitorCommand, WholeMemories } from './protocol.js';

/** What the monitor is simply told, each as a command of its own. */
export abstract class MonitorControls {
  /** Sends a command, now and at every later start of the sound. */
  protected abstract tell(command: MonitorCommand): void;

  /** The chain on the sum of all tracks, with the noise of that sum. */
  readonly setWhole = (spec: ChainSpec, profile: NoiseProfile | null): void => this.tell({ type: 'whole', spec, profile });
  /** What that chain remembers. */
  readonly setWholeMemories = (news: WholeMemories): void => this.tell({ type: 'whole-memories', ...news });

  readonly setSpeed = (speed: number): void => this.tell({ type: 'speed', speed });
  readonly setLane = (lane: Lane): void => this.tell({ type: 'lane', lane });
  readonly setLaneGains = (gainsDb: Readonly<Record<Lane, number>>): void => this.tell({ type: 'gains', gainsDb });
}
