import { createSlice, isDraft, original, type PayloadAction } from '@reduxjs/toolkit';
import type { May, RecordingFacts, RecordingView, SessionView } from '@euphonos/contracts';
import { applyEdit, record, redo, startHistory, undo, type Edit, type History, type Reel, type Track } from '@euphonos/engine';
import { sameDocument, type Draft } from './drafts.js';

/** Edits of one control that follow each other within this time are one step of the history. */
const GESTURE_MS = 900;

/** Where the saving stands. `stale`: somebody else saved in between, and the user decides. */
export type SaveState =
  | { readonly kind: 'saved' }
  | { readonly kind: 'waiting' }
  | { readonly kind: 'saving' }
  | { readonly kind: 'retrying'; readonly message: string }
  | { readonly kind: 'stale'; readonly message: string; readonly revision: number }
  | { readonly kind: 'refused'; readonly message: string };

export interface SessionState {
  readonly id: string;
  readonly name: string;
  readonly recording: RecordingView;
  /** All that the session holds, whether they lie on a track or not. */
  readonly recordings: readonly RecordingView[];
  readonly history: History | null;
  readonly revision: number;
  readonly save: SaveState;
  readonly editedAt: number;
  /** The track that is worked on; null, or one that is gone, for the first. */
  readonly trackId: string | null;
  /** What whoever is here may do with it. */
  readonly may: May;
  /** It is only listened to at the moment. */
  readonly locked: boolean;
}

/** Frozen here, at its top, it is not walked through and frozen part by part: a history of ten thousand clips took a fifth of a second. */
const sealed = (history: History): History => Object.freeze(history);

/** The state itself: a draft of it would wrap every clip that an edit looks at. Edits make new documents, they change none. */
const asIs = (state: unknown): SessionState | null =>
  state === null ? null : isDraft(state) ? (original(state) as SessionState) : (state as SessionState);

export const sessionSlice = createSlice({
  name: 'session',
  initialState: null as SessionState | null,
  reducers: {
    /** A session as the server has it, with what this browser had not saved of it the last time, and the steps that led there. */
    opened: {
      prepare: (view: SessionView, draft: Draft | null = null, history: History | null = null) => ({ payload: { view, draft, history } }),
      reducer: (
        before,
        { payload: { view, draft, history } }: PayloadAction<{ view: SessionView; draft: Draft | null; history: History | null }>,
      ): SessionState => ({
        id: view.id,
        name: view.name,
        recording: view.recording,
        recordings: view.recordings,
        revision: view.revision,
        editedAt: 0,
        trackId: null,
        may: view.may ?? 'change',
        locked: before?.id === view.id && before.locked,
        ...withDraft(view, draft, history),
      }),
    },
    /** More recordings have come, or have been read. */
    recordingsKnown: (state, { payload }: PayloadAction<readonly RecordingView[]>): SessionState | null => {
      const session = asIs(state);
      return session && { ...session, recordings: payload };
    },
    closed: () => null,
    edited: {
      prepare: (edit: Edit) => ({ payload: { edit, at: Date.now() } }),
      reducer: (state, { payload: { edit, at } }: PayloadAction<{ edit: Edit; at: number }>): SessionState | null => {
        const session = asIs(state);
        if (!session?.history) return session;
        if (isReadOnly(session)) return edit.type === 'set-loop' ? withLoop(session, edit) : session;
        return {
          ...session,
          history: sealed(record(session.history, edit, at - session.editedAt < GESTURE_MS)),
          editedAt: at,
          save: unsaved(session),
        };
      },
    },
    /** Another track is worked on. */
    trackChosen: (state, { payload }: PayloadAction<string>): SessionState | null => {
      const session = asIs(state);
      return session && { ...session, trackId: payload };
    },
    undone: (state): SessionState | null => step(asIs(state), undo),
    redone: (state): SessionState | null => step(asIs(state), redo),
    lockedChanged: (state, { payload }: PayloadAction<boolean>): SessionState | null => {
      const session = asIs(state);
      return session && { ...session, locked: payload };
    },
    saving: (state): SessionState | null => withSave(asIs(state), { kind: 'saving' }),
    saveChanged: (state, { payload }: PayloadAction<SaveState>): SessionState | null => withSave(asIs(state), payload),
    saved: (state, { payload }: PayloadAction<{ revision: number; stillCurrent: boolean }>): SessionState | null => {
      const session = asIs(state);
      return session && { ...session, revision: payload.revision, save: { kind: payload.stillCurrent ? 'saved' : 'waiting' } };
    },
    /** The user keeps this state over the one that somebody else saved. */
    keptMine: (state): SessionState | null => {
      const session = asIs(state);
      return session?.save.kind === 'stale' ? { ...session, revision: session.save.revision, save: { kind: 'waiting' } } : session;
    },
  },
});

function withDraft(
  { document, revision }: SessionView,
  draft: Draft | null,
  known: History | null,
): Pick<SessionState, 'history' | 'save'> {
  if (!document) return { history: null, save: { kind: 'saved' } };
  if (!draft || sameDocument(draft.document, document))
    return { history: sealed(known ?? startHistory(document)), save: { kind: 'saved' } };
  const history: History = sealed(
    known ?? {
      past: [{ label: 'Changes that had not been saved', gesture: null, edits: [], document }],
      present: draft.document,
      future: [],
    },
  );
  if (draft.revision === revision) return { history, save: { kind: 'waiting' } };
  const message = `This browser holds changes from revision ${draft.revision} that could not be saved; meanwhile revision ${revision} was saved elsewhere.`;
  return { history, save: { kind: 'stale', message, revision } };
}

/** Nothing of it is changed by what is done here. */
export const isReadOnly = ({ may, locked }: Pick<SessionState, 'may' | 'locked'>): boolean => may === 'hear' || locked;

/** Who only listens loops what they like; it is nobody else's, and is not saved. */
const withLoop = (session: SessionState, edit: Edit): SessionState => ({
  ...session,
  history: sealed({ ...session.history!, present: applyEdit(session.history!.present, edit) }),
});

/** Until the user has decided about a newer state elsewhere, nothing is saved. */
const unsaved = ({ save }: SessionState): SaveState => (save.kind === 'stale' ? save : { kind: 'waiting' });

const withSave = (session: SessionState | null, save: SaveState): SessionState | null => session && { ...session, save };

function step(session: SessionState | null, move: (history: History) => History): SessionState | null {
  if (!session?.history || isReadOnly(session)) return session;
  const history = move(session.history);
  return history === session.history ? session : { ...session, history: sealed(history), editedAt: 0, save: unsaved(session) };
}

export const { opened, closed, recordingsKnown, edited, lockedChanged, trackChosen, undone, redone, saving, saveChanged, saved, keptMine } =
  sessionSlice.actions;

/** The track that is worked on. */
export function activeTrack(session: SessionState | null): Track | null {
  const tracks = session?.history?.present.tracks ?? [];
  return tracks.find(({ id }) => id === session?.trackId) ?? tracks[0] ?? null;
}

/** What was measured of the recordings on a track's reel, in their order; those that have not been read are missing. */
export const recordingFacts = ({ recordings }: SessionState, { reel }: Track): readonly RecordingFacts[] =>
  reel.flatMap(({ recordingId }) => recordings.find(({ id }) => id === recordingId)?.facts ?? []);

/** Whether places of one are places of the other, as far as both go. */
const sameReel = (a: Reel, b: Reel): boolean =>
  a.every(({ recordingId, startFrame }, i) => !b[i] || (b[i].recordingId === recordingId && b[i].startFrame === startFrame));

/** The track that is heard and seen: the one that is worked on or what it was in the version that is shown. */
export function shownTrack(session: SessionState | null, { shownVersion }: { readonly shownVersion: string | null }): Track | null {
  const active = activeTrack(session);
  const version = session?.history?.present.versions.find(({ id }) => id === shownVersion);
  return version?.tracks.find(({ id, reel }) => id === active?.id && sameReel(reel, active.reel)) ?? active;
}
