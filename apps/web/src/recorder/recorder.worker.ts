import type { EndTake, StartTake } from '@euphonos/contracts';
import type { RecorderCommand, RecorderReport, SoundIn } from './protocol.js';
import { Recorder } from './recorder.js';
import type { TakeLine } from './take-sender.js';
import { OpfsTakeStore } from './take-store.js';

/** Asks the server; when it does not answer, that is said. */
let token: string | null = null;
const ask = (path: string, init: RequestInit): Promise<Response> =>
  fetch(`/api/${path}`, { ...init, headers: { ...init.headers, ...(token === null ? {} : { 'x-euphonos-token': token }) } }).catch(() => {
    throw new Error('The server does not answer.');
  });

async function answer(response: Response): Promise<unknown> {
  const body = response.status === 204 ? null : ((await response.json().catch(() => null)) as object | null);
  if (!response.ok) throw { status: response.status, ...body };
  return body;
}
const post = async (path: string, body: object): Promise<unknown> =>
  answer(await ask(path, { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }));

/** The server, from a worker: nothing of the page stands between. */
const line: TakeLine = {
  start: async (take: StartTake) => void (await post('takes', take)),
  sound: async (id, from, samples) => {
    const body = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength) as Uint8Array<ArrayBuffer>;
    const response = await ask(`takes/${id}/sound?from=${from}`, {
      method: 'PUT',
      body,
      headers: { 'content-type': 'application/octet-stream' },
    });
    return ((await answer(response)) as { frames: number }).frames;
  },
  end: async (id, end: EndTake) => void (await post(`takes/${id}/end`, end)),
  drop: async (id) => {
    const response = await ask(`takes/${id}`, { method: 'DELETE' });
    if (response.status !== 404) await answer(response);
  },
};

const hasStore = typeof navigator !== 'undefined' && 'storage' in navigator && typeof FileSystemFileHandle !== 'undefined';
const recorder = new Recorder(hasStore ? new OpfsTakeStore() : null, line, (report: RecorderReport) => self.postMessage(report));

let ending: (() => void) | undefined;
/** What another window records at this moment may be left a moment later: a page that is killed lets go of its files when it likes. */
const LOOK_AGAIN_MS = 8000;
const lookingBack = setInterval(() => void recorder.lookBack(), LOOK_AGAIN_MS);

/** Reads what a device gives, straight from it: whatever the page and the audio clock are busy with. */
function readStream(stream: ReadableStream<AudioData>): () => void {
  const reader = stream.getReader();
  let open = true;
  void (async () => {
    for (;;) {
      const { value, done } = await reader.read();
      if (!open) return value?.close();
      if (done) return recorder.sourceGone();
      const channels = Array.from({ length: value.numberOfChannels }, (_, planeIndex) => {
        const samples = new Float32Array(value.numberOfFrames);
        value.copyTo(samples, { planeIndex, format: 'f32-planar' });
        return samples;
      });
      const atMicroseconds = value.timestamp;
      value.close();
      recorder.take({ channels, atMicroseconds });
    }
  })().catch(() => open && recorder.sourceGone());
  return () => {
    open = false;
    void reader.cancel().catch(() => undefined);
  };
}

function readPort(port: MessagePort): () => void {
  port.onmessage = ({ data }) => recorder.take(data as SoundIn);
  return () => port.close();
}

self.onmessage = ({ data }: MessageEvent<RecorderCommand>) => {
  if (data.type === 'person') {
    token = data.token;
    void recorder.setPerson(data.personId);
  } else if (data.type === 'source') {
    ending?.();
    recorder.setSource(data.sampleRateHz, data.channel);
    ending = data.stream ? readStream(data.stream) : data.port ? readPort(data.port) : undefined;
  } else if (data.type === 'source-gone' || data.type === 'close') {
    ending?.();
    ending = undefined;
    recorder.sourceGone();
    if (data.type !== 'close') return;
    clearInterval(lookingBack);
    void recorder.command(data);
  } else void recorder.command(data);
};
