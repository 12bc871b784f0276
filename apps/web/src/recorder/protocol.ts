import type { StartTake, TakeGap, TakeMark, TakeMarkKind } from '@euphonos/contracts';
import type { Listen, ListenState } from '@euphonos/dsp';

/** Which channels of a device are recorded. */
export type MicrophoneChannel = 'first' | 'second' | 'both';

/** Sound as it comes from a device. */
export interface SoundIn {
  readonly channels: readonly Float32Array[];
  /** Its place on the device's own clock, microseconds, where it is told. */
  readonly atMicroseconds?: number;
}

/** What the page tells the recorder. */
export type RecorderCommand =
  /** A device: a stream of what it gives, or a port on which it comes. `null`: it is gone. */
  | {
      readonly type: 'source';
      readonly sampleRateHz: number;
      readonly channel: MicrophoneChannel;
      readonly stream: ReadableStream<AudioData> | null;
      readonly port: MessagePort | null;
    }
  /** Who records, and what goes with every change, where people have accounts: else '' and null. */
  | { readonly type: 'person'; readonly personId: string; readonly token: string | null }
  | { readonly type: 'source-gone' }
  | { readonly type: 'listen'; readonly listen: Listen | null; readonly floorDbfs?: number }
  /** What was heard in a listen that was enough, to be measured. */
  | { readonly type: 'heard'; readonly listens: readonly Listen[] }
  | {
      readonly type: 'start';
      readonly take: Omit<StartTake, 'preRollFrames' | 'sampleRateHz' | 'channels'>;
      readonly preRollSeconds: number;
    }
  | { readonly type: 'mark'; readonly kind: TakeMarkKind }
  | { readonly type: 'stop' }
  /** What an earlier page left: sent to its end, or thrown away. */
  | { readonly type: 'finish'; readonly id: string }
  | { readonly type: 'forget'; readonly id: string }
  /** The page goes: what earlier ones left is let go of, for the next. */
  | { readonly type: 'close' };

/** Levels since the last report, of what is recorded. */
export interface MeterReport {
  readonly rmsDbfs: number;
  readonly peakDbfs: number;
  readonly clipped: boolean;
  /** Frames that the device gave so far, and how many it did not. */
  readonly frames: number;
  readonly lostFrames: number;
}

/** What became of a take, for the page. */
export interface TakeReport {
  readonly id: string;
  readonly name: string;
  readonly frames: number;
  readonly sampleRateHz: number;
  readonly preRollFrames: number;
  readonly marks: readonly TakeMark[];
  readonly gaps: readonly TakeGap[];
  /** Frames that are safe on this machine, and on the server. */
  readonly keptFrames: number;
  readonly sentFrames: number;
  readonly state: 'recording' | 'sending' | 'done';
  /** Why it is not safe on this machine, or not sent yet, in words. */
  readonly keepProblem: string | null;
  readonly sendProblem: string | null;
}

/** A take of an earlier page that was never ended. */
export interface LeftTake {
  readonly id: string;
  readonly name: string;
  readonly frames: number;
  readonly sampleRateHz: number;
  readonly startedAt: string;
  /** It is on the server alone: this machine has nothing of it. */
  readonly onServer?: boolean;
}

export type RecorderReport =
  | { readonly type: 'meter'; readonly meter: MeterReport }
  | { readonly type: 'listen'; readonly listen: Listen; readonly state: ListenState }
  | { readonly type: 'heard'; readonly heard: Partial<Record<Listen, Float32Array>> }
  | { readonly type: 'take'; readonly take: TakeReport }
  | { readonly type: 'left'; readonly takes: readonly LeftTake[] }
  | { readonly type: 'source-ended' };
