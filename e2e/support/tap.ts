import type { Page } from '@playwright/test';

/** What came out of the monitor's worklet: samples by frame of the audio clock. */
export interface Tapped {
  /** First frame of the audio clock. */
  readonly startFrame: number;
  readonly samples: Float32Array;
  /** Frame of the recording that sounded at frame 0 of the audio clock, at each report of the worklet. */
  readonly offsets: readonly { readonly at: number; readonly offset: number }[];
}

interface TapWindow extends Window {
  tapped?: { at: number; samples: Float32Array }[];
  offsets?: { at: number; offset: number }[];
  euphonosWorkbench?: { player: { node: AudioWorkletNode; playing: boolean; frame: number }; sampleRateHz: number };
}

/** Starts to take down what comes out of the worklet. The player must have been started. */
export async function startTap(page: Page): Promise<void> {
  await page.evaluate(async () => {
    const here = window as unknown as TapWindow;
    const { node } = here.euphonosWorkbench!.player;
    const context = node.context as AudioContext;
    await context.audioWorklet.addModule('/e2e-tap.js');
    const tap = new AudioWorkletNode(context, 'e2e-tap', { numberOfInputs: 1, numberOfOutputs: 0 });
    const tapped: { at: number; samples: Float32Array }[] = (here.tapped = []);
    const offsets: { at: number; offset: number }[] = (here.offsets = []);
    tap.port.onmessage = ({ data }) => tapped.push(data as { at: number; samples: Float32Array });
    node.port.addEventListener('message', ({ data }) => {
      const report = data as { status: string; frame: number; contextSeconds: number };
      const at = Math.round(report.contextSeconds * context.sampleRate);
      if (report.status === 'playing') offsets.push({ at, offset: report.frame - at });
    });
    node.connect(tap);
  });
}

/** What was taken down since the start, or since the last call. */
export async function readTap(page: Page): Promise<Tapped> {
  const { text, startFrame, offsets } = await page.evaluate(() => {
    const here = window as unknown as TapWindow;
    const parts = here.tapped!.splice(0);
    const offsets = here.offsets!.splice(0);
    const bytes = new Uint8Array(parts.length * 512);
    parts.forEach(({ samples }, i) => bytes.set(new Uint8Array(samples.buffer), i * 512));
    let text = '';
    for (let i = 0; i < bytes.length; i += 32768) text += String.fromCharCode(...bytes.subarray(i, i + 32768));
    return { text: btoa(text), startFrame: parts[0]?.at ?? 0, offsets };
  });
  const bytes = Buffer.from(text, 'base64');
  return { startFrame, samples: new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length)), offsets };
}

/** The part of what was taken down that sounded while the recording ran on without a seam; with its frames. */
export function straight({ samples, startFrame, offsets }: Tapped): { frame: number; samples: Float32Array } {
  const offset = offsets[offsets.length - 1]!.offset;
  const from = Math.max(startFrame, offsets.find((report) => report.offset === offset)!.at);
  return { frame: from + offset, samples: samples.subarray(from - startFrame) };
}
