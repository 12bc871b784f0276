import { loadKernels } from './kernels.js';
import workletUrl from './monitor.worklet.ts?worker&url';
import { OUTPUT_CHANNELS, PROCESSOR_NAME, type MonitorOptions } from './protocol.js';

/** The monitor in the audio thread, connected to the output. `source` is asked once everything is loaded; null, and no node, when it is no longer wanted. */
export async function createMonitorNode(
  context: AudioContext,
  channels: number,
  source: () => MonitorOptions['source'] | null,
): Promise<AudioWorkletNode | null> {
  const [kernels] = await Promise.all([loadKernels(), context.audioWorklet.addModule(workletUrl)]);
  const news = source();
  if (!news) return null;
  const options: MonitorOptions = { kernels, channels, source: news };
  const node = new AudioWorkletNode(context, PROCESSOR_NAME, {
    numberOfInputs: 0,
    outputChannelCount: [OUTPUT_CHANNELS],
    processorOptions: options,
  });
  node.connect(context.destination);
  return node;
}
