import type { ChainSpec } from '@euphonos/dsp';
import type { MonitorCommand } from './protocol.js';

/** What the monitor was told last, one command of each kind, and all that the whole remembers: for a start, or a start anew. */
export class KeptCommands {
  readonly #kept = new Map<string, MonitorCommand>();
  #ofWhole: MonitorCommand[] = [];

  keep(command: MonitorCommand): void {
    if (command.type === 'whole-memories') {
      this.#ofWhole = command.key === '' ? [] : [...this.#ofWhole, command];
      return;
    }
    // A profile brings its chain along.
    if (command.type === 'profile') this.#kept.delete('chain');
    this.#kept.set(command.type, command);
  }

  /** A start sends all that is kept, in any order: the profile must not bring an older chain along. */
  keepChain(spec: ChainSpec, prepared: number): void {
    const profile = this.#kept.get('profile');
    if (profile?.type === 'profile') this.#kept.set('profile', { ...profile, spec, prepared });
    this.#kept.set('chain', { type: 'chain', spec, prepared });
  }

  get all(): Iterable<MonitorCommand> {
    return [...this.#kept.values(), ...this.#ofWhole];
  }
}
