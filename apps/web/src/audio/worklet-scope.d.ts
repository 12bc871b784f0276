// The globals of an AudioWorklet that the worklet uses; the DOM typings do not have them.
declare const currentTime: number;
declare const currentFrame: number;
declare const sampleRate: number;
declare function registerProcessor(name: string, processor: new (options: { processorOptions: unknown }) => AudioWorkletProcessor): void;
declare abstract class AudioWorkletProcessor {
  readonly port: MessagePort;
  abstract process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean;
}
