import type { ChainSpec, KernelModule, NoiseProfile } from '@euphonos/dsp';
import type { Lane, MeterReading, MonitorStatus, Span } from '@euphonos/engine';

/** Given to the worklet when it is made. */
export interface MonitorOptions {
  readonly kernels: KernelModule;
  readonly channels: number;
  readonly lengthFrames: number;
}

/**
 * From the page to the worklet. `prepared` names what was rendered in the background: 0 is the recording itself; a later
 * rendering has a higher number.
 */
export type MonitorCommand =
  | { readonly type: 'chain'; readonly spec: ChainSpec; readonly prepared: number }
  | { readonly type: 'profile'; readonly profile: NoiseProfile | null; readonly spec: ChainSpec; readonly prepared: number }
  | { readonly type: 'lane'; readonly lane: Lane }
  | { readonly type: 'gains'; readonly gainsDb: Readonly<Record<Lane, number>> }
  | { readonly type: 'loop'; readonly loop: Span | null }
  | { readonly type: 'play'; readonly frame: number }
  | { readonly type: 'stop' }
  | { readonly type: 'chunk'; readonly prepared: number; readonly index: number; readonly channels: Float32Array[] }
  | { readonly type: 'drop'; readonly prepared: number; readonly index: number };

/** From the worklet to the page, some 30 times a second while it plays. */
export interface MonitorReport {
  readonly status: MonitorStatus;
  /** The frame that sounds at `contextSeconds` of the audio clock. */
  readonly frame: number;
  readonly contextSeconds: number;
  readonly meters: MeterReading;
  /** How many play commands it has taken so far: a report with fewer than were sent is out of date. */
  readonly plays: number;
  /** It still sounds at the old place, for the few milliseconds of a fade. */
  readonly leaving: boolean;
}

export const PROCESSOR_NAME = 'euphonos-monitor';
