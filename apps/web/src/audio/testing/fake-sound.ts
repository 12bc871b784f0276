import { CHUNK_FRAMES } from '@euphonos/engine';
import type { MemoryNews, MemoryRequest } from '../../passage/chain-memory.js';
import { Player } from '../player.js';
import type { MonitorCommand, MonitorReport } from '../protocol.js';
import { oneRecording } from './one-recording.js';

/** The browser's sound as far as the player sees it: what the node is told, and a way to answer. */
export class FakeNode {
  static all: FakeNode[] = [];
  static options: unknown[] = [];
  readonly told: MonitorCommand[] = [];
  readonly port = {
    postMessage: (command: MonitorCommand) => this.told.push(command),
    onmessage: (_: { data: MonitorReport }): void => undefined,
  };
  onprocessorerror = (): void => undefined;
  constructor(_context: unknown, _name: string, { processorOptions }: { processorOptions: unknown }) {
    FakeNode.options.push(processorOptions);
    FakeNode.all.push(this);
  }
  connect = (): void => undefined;
  get plays(): number[] {
    return this.told.flatMap((command) => (command.type === 'play' ? [command.frame] : []));
  }
  report(part: Partial<MonitorReport>): void {
    const meters = { peakDbfs: -6, rmsDbfs: -20, momentaryLufs: -20, shortTermLufs: -20 };
    this.port.onmessage({
      data: {
        status: 'playing',
        frame: 0,
        contextSeconds: 0,
        meters,
        plays: this.told.filter(({ type }) => type === 'play' || type === 'source').length,
        exact: true,
        awaited: 0,
        speed: 1,
        leaving: false,
        ...part,
      },
    });
  }
}
export const clock = { seconds: 0, letStart: (): void => undefined };

/** The browser's sound is this one from now on. */
export function fakeSound(): void {
  FakeNode.all = [];
  clock.seconds = 0;
  const fakes = {
    AudioWorkletNode: FakeNode,
    AudioContext: class {
      outputLatency = 0;
      audioWorklet = { addModule: () => new Promise<void>((resolve) => (clock.letStart = resolve)) };
      get currentTime(): number {
        return clock.seconds;
      }
      resume = async (): Promise<void> => undefined;
      close = async (): Promise<void> => undefined;
    },
    fetch: async (_: unknown, init: RequestInit) => ({
      ok: true,
      arrayBuffer: async () =>
        new ArrayBuffer(Number(/-(\d+)/.exec((init.headers as Record<string, string>)['range']!)![1]) % 4 === 3 ? 4 * CHUNK_FRAMES : 0),
    }),
  };
  Object.assign(globalThis, fakes);
}
export const settle = () => new Promise((resolve) => setTimeout(resolve));
export const chain = { treatments: [] };

export function player(troubles: unknown[] = []) {
  return new Player(
    { ...oneRecording(40 * CHUNK_FRAMES), sampleRateHz: 48000 },
    (error) => troubles.push(error),
    async () => [new Float32Array(CHUNK_FRAMES)],
    async (request, { index }) => pass.memories(request, index),
  );
}
/** What the pass answers; nothing remembers unless a test says so. */
export const pass = {
  memories: (_request: MemoryRequest, _fromIndex: number): MemoryNews => ({
    spacingFrames: 24576,
    held: [],
    prepared: null,
    nextFrame: 0,
    passed: true,
    done: true,
  }),
};
export async function started(made = player()): Promise<{ made: Player; node: FakeNode }> {
  const play = made.play();
  await settle();
  clock.letStart();
  await play;
  return { made, node: FakeNode.all[FakeNode.all.length - 1]! };
}
