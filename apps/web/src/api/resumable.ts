import { Upload, type DetailedError, type HttpRequest } from 'tus-js-client';
import { ServerProblem, unreachable } from './problem.js';
import { personHere, tellSignedOut, tokenHeaders } from './token.js';

const ENDPOINT = '/api/uploads';
/** A proxy may take no larger bodies, and what one request brought is safe. */
const PART_BYTES = 64 << 20;
/** So much may be sent once more. */
const SMALL_BYTES = 1 << 20;
/** Files that this page sends at this moment. */
const atWork = new Set<string>();
const nameOf = ({ name, size }: Pick<File, 'name' | 'size'>): string => `${size} ${name.toWellFormed().slice(0, 300)}`;

/** Quickly at first, then every few seconds for hours: whoever goes home leaves the page open. */
const RETRY_MS = [300, 1000, 2000, ...Array<number>(4000).fill(4000)];

/** Nobody answers, or nobody is signed in just now: it goes on by itself when that is over. */
const passes = (status: number): boolean => [0, 401, 502, 503, 504].includes(status);
/** Another request of the same file is still at work: it is asked where it stands. */
const isBusy = (status: number): boolean => status === 409 || status === 423;

function problemOf(error: Error | DetailedError): ServerProblem {
  const response = 'originalResponse' in error ? error.originalResponse : null;
  if (!response) return unreachable();
  if (response.getStatus() === 413)
    return new ServerProblem(413, 'file-large', 'The file is larger than the 64 GB that are taken. Nothing was kept of it.');
  try {
    const { code, message, data } = JSON.parse(response.getBody()) as { code: string; message: string; data?: Record<string, unknown> };
    return new ServerProblem(response.getStatus(), code, message, data);
  } catch {
    return new ServerProblem(
      response.getStatus(),
      'unexpected',
      `The server answered ${response.getStatus()} while the file was on its way. What had come of it is kept: bring it in again, and it goes on.`,
    );
  }
}

const givenUp = (): ServerProblem => new ServerProblem(0, 'given-up', 'It was given up; nothing of it was kept.');

export interface Sent {
  /** Names what has come whole on the server. */
  readonly uploadId: string;
  /** It was taken in, or never will be: this browser need not know of it any more. */
  readonly forget: () => Promise<void>;
}

/**
 * Sends a file in parts, and goes on where it was: after a line that broke, a server that was started again, and when the same file is chosen
 * again after the page was closed. `onProgress` gets the share that is there; null while nobody answers. Rejects with ServerProblem, `given-up`
 * once `signal` says so: then nothing of it stays.
 */
export async function sendResumable(file: File, onProgress: (share: number | null) => void, signal?: AbortSignal): Promise<Sent> {
  atWork.add(nameOf(file));
  const url = await new Promise<string>((resolve, reject) => {
    const upload = new Upload(file, {
      endpoint: ENDPOINT,
      chunkSize: PART_BYTES,
      // Until that first request is answered nobody knows what to go on with.
      uploadDataDuringCreation: file.size < SMALL_BYTES,
      retryDelays: RETRY_MS,
      metadata: { filename: file.name.toWellFormed().slice(0, 300), by: personHere() },
      onBeforeRequest: (request: HttpRequest) => {
        for (const [name, value] of Object.entries(tokenHeaders())) request.setHeader(name, value);
      },
      onShouldRetry: (error) => {
        const { status, code } = problemOf(error);
        if (code === 'sign-in') tellSignedOut();
        const again = passes(status) || isBusy(status) || code === 'token';
        if (again) onProgress(null);
        return again;
      },
      onProgress: (sent, total) => onProgress(total ? sent / total : 0),
      onError: (error) => reject(problemOf(error)),
      onSuccess: () => resolve(upload.url!),
    });
    signal?.addEventListener('abort', () => {
      void upload
        .abort()
        .then(() => forgetHere(file))
        .finally(() => reject(givenUp()));
      // Also where nobody answers: what is left there goes after a week.
      if (upload.url) void removeFromServer(upload.url);
    });
    void upload.findPreviousUploads().then(
      (found) => {
        if (found[0]) upload.resumeFromPreviousUpload(found[0]);
        upload.start();
      },
      () => upload.start(),
    );
  }).finally(() => atWork.delete(nameOf(file)));
  return { uploadId: url.split('/').at(-1)!, forget: () => forgetHere(file) };
}

/**
 * Has taken in what has come whole, asked until there is an answer: it is done once, however often it is asked for. What is refused for good is
 * forgotten; for want of room, or when the server fails, it stays, and is taken in when the file is chosen again.
 */
export async function takeIn<Answer>(
  { uploadId, forget }: Sent,
  ask: (uploadId: string) => Promise<Answer>,
  onWait: () => void,
  signal?: AbortSignal,
): Promise<Answer> {
  for (let i = 0; ; i++)
    try {
      if (signal?.aborted) throw givenUp();
      const answer = await ask(uploadId);
      await forget();
      return answer;
    } catch (error) {
      const { status, code } = error as ServerProblem;
      const again = passes(status) && code !== 'given-up' && i < RETRY_MS.length;
      if (!again) {
        if (code === 'given-up' || (!passes(status) && status < 500))
          await Promise.all([forget(), removeFromServer(`${ENDPOINT}/${uploadId}`)]);
        throw error;
      }
      onWait();
      await new Promise((resolve) => setTimeout(resolve, RETRY_MS[i]));
    }
}

const removeFromServer = (url: string): Promise<unknown> =>
  fetch(url, { method: 'DELETE', headers: { 'tus-resumable': '1.0.0', ...tokenHeaders() } }).catch(() => undefined);

/** This browser need not know of it any more. */
async function forgetHere(file: File): Promise<void> {
  const probe = new Upload(file, { endpoint: ENDPOINT });
  for (const { urlStorageKey } of await probe.findPreviousUploads())
    await probe.options.urlStorage?.removeUpload(urlStorageKey).catch(() => undefined);
}

/** A file that was on its way from this browser when its page was closed. */
export interface LeftUpload {
  readonly key: string;
  readonly name: string;
  readonly sizeBytes: number;
  readonly since: string;
  readonly url: string | null;
}

const storage = (): Upload['options']['urlStorage'] => new Upload(new Blob([]), { endpoint: ENDPOINT }).options.urlStorage;

/** A browser that was ended by force may remember what was taken in long ago; after a week there is nothing to go on with either. */
async function isGone(url: string | null): Promise<boolean> {
  if (!url) return true;
  const answer = await fetch(url, { method: 'HEAD', headers: { 'tus-resumable': '1.0.0' } }).catch(() => null);
  return answer?.status === 404 || answer?.status === 410;
}

export async function leftUploads(): Promise<LeftUpload[]> {
  const found = (await storage()?.findAllUploads()) ?? [];
  // Whoever was signed in here before has theirs.
  const mine = found
    .filter(({ metadata, size }) => (metadata['by'] ?? '') === personHere() && !atWork.has(`${size} ${metadata['filename']}`))
    .map(({ urlStorageKey, metadata, size, creationTime, uploadUrl }) => ({
      key: urlStorageKey,
      name: metadata['filename'] ?? 'a file',
      sizeBytes: size ?? 0,
      since: creationTime,
      url: uploadUrl,
    }));
  const gone = await Promise.all(mine.map(({ url }) => isGone(url)));
  for (const [i, { key }] of mine.entries()) if (gone[i]) await storage()?.removeUpload(key);
  return mine.filter((_, i) => !gone[i]);
}

/** Forgets one, here and on the server. */
export async function forgetUpload({ key, url }: LeftUpload): Promise<void> {
  await storage()?.removeUpload(key);
  if (url) await removeFromServer(url);
}
