import type {
  HoldView,
  ProfileView,
  RecordingCue,
  RenderView,
  SavedDocument,
  SavedSteps,
  SessionView,
  SurveyView,
} from '@euphonos/contracts';
import type { NoiseProfileFile } from '@euphonos/dsp';
import type { Cover, HistoryLog, Placing, SessionDocument } from '@euphonos/engine';
import { sendResumable, takeIn } from './resumable.js';
import { tellSignedOut, tokenHeaders } from './token.js';
import { problemOf, ServerProblem, unreachable } from './problem.js';

declare global {
  /** What was asked for before the program was there (public/theme.js). */
  var euphonosAsked: Record<string, Promise<Response | undefined>> | undefined;
}

/** The answer to what the page has asked for already: once, and only if it is one. */
async function askedBefore(path: string): Promise<Response | undefined> {
  const asked = globalThis.euphonosAsked?.[path];
  if (!asked) return undefined;
  delete globalThis.euphonosAsked![path];
  const response = await asked;
  return response?.ok ? response : undefined;
}

export async function request<Answer>(method: string, path: string, body?: object, keepalive = false): Promise<Answer> {
  const text = body && JSON.stringify(body);
  const asked = method === 'GET' ? await askedBefore(path) : undefined;
  const response =
    asked ??
    (await fetch(`/api/${path}`, {
      method,
      // Goes through even when the page is left; browsers take up to 64 KB that way.
      keepalive: keepalive && (text?.length ?? 0) < 60_000,
      headers: { ...(method === 'GET' ? {} : tokenHeaders()), ...(text ? { 'content-type': 'application/json' } : {}) },
      ...(text ? { body: text } : {}),
    }).catch(() => {
      throw unreachable();
    }));
  if (!response.ok) throw await problemOf(response);
  return (response.status === 204 ? undefined : await response.json()) as Answer;
}

export const getSession = (id: string): Promise<SessionView> => request('GET', `sessions/${id}`);
export const renameSession = (id: string, name: string): Promise<SessionView> => request('PATCH', `sessions/${id}`, { name });
/** No more recordings are to come: the session is made of those that it has. */
export const sessionGathered = (id: string): Promise<void> => request('POST', `sessions/${id}/gathered`, {});
export const removeSession = (id: string): Promise<void> => request('DELETE', `sessions/${id}`);
export const saveDocument = (id: string, revision: number, document: SessionDocument, steps: SavedSteps): Promise<SavedDocument> =>
  request('PUT', `sessions/${id}/document`, { revision, document, steps }, true);
export const getSteps = (id: string): Promise<{ log: HistoryLog | null }> => request('GET', `sessions/${id}/steps`);
export const holdSession = (id: string, windowId: string, take: boolean): Promise<HoldView> =>
  request('POST', `sessions/${id}/hold`, { windowId, take });
/** Goes through even when the page is left. */
export const letSessionGo = (id: string, windowId: string): void =>
  void fetch(`/api/sessions/${id}/hold/${windowId}`, { method: 'DELETE', keepalive: true, headers: tokenHeaders() }).catch(() => undefined);
export const startRender = (id: string, revision: number, trackId: string, intoPicture = false, keepOthers = true): Promise<RenderView> =>
  request('POST', `sessions/${id}/renders`, { revision, trackId, intoPicture, keepOthers });
/** A file for each track of the mix. */
export const startStems = (id: string, revision: number): Promise<RenderView[]> => request('POST', `sessions/${id}/stems`, { revision });
/** A file for each clip, with handles, or one in the place of each recording. */
export const startPieces = (id: string, revision: number, what: 'clips' | 'originals', handleSeconds: number): Promise<RenderView[]> =>
  request('POST', `sessions/${id}/pieces`, { revision, what, handleSeconds });
export const getCues = (recordingId: string): Promise<readonly RecordingCue[]> => request('GET', `recordings/${recordingId}/cues`);
export const listRenders = (id: string): Promise<RenderView[]> => request('GET', `sessions/${id}/renders`);
export const cancelRender = (id: string): Promise<RenderView> => request('POST', `renders/${id}/cancel`, {});

/** Where a file goes: into a session, or a new one that waits for more and places them so. */
export interface BringInto {
  readonly session?: string;
  readonly placing?: Placing;
  /** The batch that cleans it. */
  readonly batch?: string;
}

/** Sends a file and reports the share that is there, null while nobody answers. Rejects with ServerProblem. */
export async function bringIn(
  file: File,
  onProgress: (share: number | null) => void,
  into: BringInto = {},
  signal?: AbortSignal,
): Promise<{ sessionId: string; recordingId: string }> {
  const name = file.name.toWellFormed().slice(0, 300);
  return takeIn(
    await sendResumable(file, onProgress, signal),
    (upload) => request('POST', `recordings?${new URLSearchParams({ name, upload, ...into }).toString()}`, {}),
    () => onProgress(null),
    signal,
  );
}

/** Sends a bundle: its sessions are made anew. Rejects with ServerProblem. */
export async function bringInBundle(
  file: File,
  onProgress: (share: number | null) => void,
  signal?: AbortSignal,
): Promise<{ sessionIds: readonly string[] }> {
  return takeIn(
    await sendResumable(file, onProgress, signal),
    (upload) => request('POST', `bundles?upload=${upload}`, {}),
    () => onProgress(null),
    signal,
  );
}

function send<Answer>(file: File, path: string): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const upload = new XMLHttpRequest();
    upload.open('POST', `/api/${path}`);
    for (const [name, value] of Object.entries({ 'content-type': 'application/octet-stream', ...tokenHeaders() }))
      upload.setRequestHeader(name, value);
    upload.responseType = 'json';
    upload.onerror = () =>
      reject(
        new ServerProblem(
          0,
          'upload-broken',
          'The connection broke off while the file was on its way; nothing was kept. Bring it in again.',
        ),
      );
    upload.onload = () => {
      const answer = upload.response as (Answer & { code?: string; message?: string }) | null;
      if (upload.status === 201 && answer) return resolve(answer);
      if (answer?.code === 'sign-in') tellSignedOut();
      reject(new ServerProblem(upload.status, answer?.code ?? 'unexpected', answer?.message ?? `The server answered ${upload.status}.`));
    };
    upload.send(file);
  });
}

/** Keeps a JPEG or PNG as a cover. Rejects with ServerProblem. */
export const keepCover = (file: File): Promise<Cover> => send(file, 'covers');

/** The recording once more, so many parts per million longer; it joins the session when it has been read. */
export const takeDriftOut = (recordingId: string, sessionId: string, ppm: number): Promise<{ recordingId: string }> =>
  request('POST', `recordings/${recordingId}/without-drift`, { sessionId, ppm });

/** Bytes of a recording: a range of its samples, peaks or spectrogram. */
export async function fetchBytes(path: string, fromByte: number, toByte: number, signal?: AbortSignal): Promise<ArrayBuffer> {
  const response = await fetch(`/api/recordings/${path}`, {
    headers: { range: `bytes=${fromByte}-${toByte - 1}` },
    ...(signal ? { signal } : {}),
  }).catch((error: unknown) => {
    throw signal?.aborted ? error : unreachable();
  });
  if (!response.ok) throw await problemOf(response);
  return response.arrayBuffer();
}

export const getSurvey = (recordingId: string): Promise<SurveyView> => request('GET', `recordings/${recordingId}/survey`);
export const surveyAgain = (recordingId: string): Promise<SurveyView> => request('POST', `recordings/${recordingId}/survey`, {});
export const cancelSurvey = (recordingId: string): Promise<SurveyView> => request('POST', `recordings/${recordingId}/survey/cancel`, {});

export const listProfiles = (): Promise<ProfileView[]> => request('GET', 'profiles');
export const keepProfile = (file: unknown, sessionId?: string): Promise<ProfileView> =>
  request('POST', 'profiles', { file, ...(sessionId ? { sessionId } : {}) });
export const getProfileFile = (id: string): Promise<NoiseProfileFile> => request('GET', `profiles/${id}/file`);
export const renameProfile = (id: string, name: string): Promise<ProfileView> => request('PATCH', `profiles/${id}`, { name });
export const removeProfile = (id: string): Promise<void> => request('DELETE', `profiles/${id}`);
