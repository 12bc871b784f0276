import type { ChainSpec, NoiseProfile } from '@euphonos/dsp';
import type { MicrophoneChannel } from '../recorder/protocol.js';

export const LIVE_PROCESSOR = 'euphonos-live';

export interface LiveOptions {
  readonly kernels: WebAssembly.Module;
  readonly channel: MicrophoneChannel;
  /** What comes in is also handed on here, frame by frame: where a stream of it cannot be had from the device itself. */
  readonly capture: boolean;
}

export type LiveCommand =
  | { readonly type: 'chain'; readonly spec: ChainSpec; readonly profile: NoiseProfile | null }
  /** Whether it is heard. */
  | { readonly type: 'hear'; readonly on: boolean }
  /** Where captured frames go. */
  | { readonly type: 'capture-to'; readonly port: MessagePort }
  /** Plays a short sweep and gives back what came in meanwhile: how long the way round is. */
  | { readonly type: 'probe'; readonly sweep: Float32Array; readonly listenFrames: number };

/** What the live chain does at this moment. Levels of the last report's time. */
export interface LiveMeters {
  readonly inDbfs: number;
  readonly outDbfs: number;
  /** What each does to the level, dB; null where it does not sound. */
  readonly gateDb: number | null;
  readonly reductionDb: number | null;
  readonly compressorDb: number | null;
  readonly limiterDb: number | null;
  /** Most that the limiter held since the last report. */
  readonly heldDb: number;
}

export type LiveReport =
  | { readonly type: 'meters'; readonly meters: LiveMeters; readonly chainFrames: number; readonly heard: boolean }
  /** A loop was noticed: what was heard is muted. */
  | { readonly type: 'feedback'; readonly hz: number }
  | { readonly type: 'probed'; readonly heard: Float32Array };
