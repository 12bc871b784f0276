import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { FrequencyAxis } from '@euphonos/dsp';
import type { CopiedClips, Lane, Span } from '@euphonos/engine';

/** What is heard and how it is shown: nothing of it touches what is rendered. */
export interface ListeningState {
  readonly lane: Lane;
  readonly equalLoudness: boolean;
  readonly looping: boolean;
  /** The moving picture of a recording is shown, where there is one. */
  readonly pictureShown: boolean;
  readonly picture: 'wave' | 'spectrogram';
  readonly waveScale: 'decibel' | 'linear';
  readonly axis: FrequencyAxis;
  /** Level that is drawn as bare paper; full ink is 60 dB above. */
  readonly inkFloorDbfs: number;
  /** Vertical zoom of the wave: lowest level of the decibel scale, or full height of the linear one. */
  readonly waveFloorDbfs: number;
  readonly waveHeightDbfs: number;
  readonly selection: Span | null;
  /** The band of a box selected on a spectrogram; null for the whole band. */
  readonly band: { readonly lowHz: number; readonly highHz: number } | null;
  /** The selection is heard looped, as it came, whatever is chosen otherwise. */
  readonly auditioning: boolean;
  /** Which of the passages that were found is looked at, from 0; null for none. */
  readonly candidate: number | null;
  /** The clip that is worked on, by its id. */
  readonly chosenClip: string | null;
  /** Clips of the same track that are chosen with it. */
  readonly alsoChosen: readonly string[];
  readonly copied: CopiedClips | null;
  /** All tracks that are not muted are heard together, through the chain on the whole. */
  readonly together: boolean;
  /** The tracks that are heard instead of all of them; for the ear alone, a render has all that are not muted. */
  readonly solo: readonly string[];
  /** How fast it is played, pitch kept. */
  readonly speed: number;
  /** Play begins so long before the playhead, when that is asked for; and an edge is heard so long before and after. */
  readonly preRollSeconds: number;
  /** Edges go to the nearest change of sign, and to other edges. */
  readonly snapping: boolean;
  /** The version that is heard and seen instead of the present state; and the one that V goes to. */
  readonly shownVersion: string | null;
  readonly lastVersion: string | null;
  /** A kept noise profile that is drawn beside the present one. */
  readonly comparedProfile: { readonly id: string; readonly name: string } | null;
  readonly folded: Readonly<Record<Lane, boolean>>;
  readonly openTreatmentId: string | null;
  /** Heard aside from the lanes: what one treatment takes out, or a narrow band at its place in the chain. */
  readonly aside: { readonly treatmentId: string; readonly bandHz?: number } | null;
}

const initialState: ListeningState = {
  lane: 'result',
  equalLoudness: false,
  looping: false,
  picture: 'spectrogram',
  waveScale: 'decibel',
  axis: 'log',
  inkFloorDbfs: -96,
  waveFloorDbfs: -72,
  waveHeightDbfs: 0,
  selection: null,
  band: null,
  auditioning: false,
  candidate: null,
  chosenClip: null,
  alsoChosen: [],
  copied: null,
  snapping: true,
  speed: 1,
  preRollSeconds: 2,
  together: false,
  pictureShown: true,
  solo: [],
  comparedProfile: null,
  shownVersion: null,
  lastVersion: null,
  folded: { source: false, removed: false, result: false },
  openTreatmentId: 't3',
  aside: null,
};

export const listeningSlice = createSlice({
  name: 'listening',
  initialState,
  reducers: {
    changed: (state, { payload }: PayloadAction<Partial<ListeningState>>) => {
      // Another clip by itself lets the others go.
      const others = 'chosenClip' in payload && !payload.alsoChosen && payload.chosenClip !== state.chosenClip ? { alsoChosen: [] } : {};
      const next = { ...state, ...others, ...payload };
      // Without a selection there is nothing to audition.
      return next.selection ? next : { ...next, auditioning: false };
    },
    laneFolded: (state, { payload }: PayloadAction<Lane>) => ({ ...state, folded: { ...state.folded, [payload]: !state.folded[payload] } }),
    /** Shows lower levels (1) or higher ones only (-1). */
    waveZoomed: (state, { payload }: PayloadAction<1 | -1>) =>
      state.waveScale === 'decibel'
        ? { ...state, waveFloorDbfs: Math.max(-108, Math.min(-36, state.waveFloorDbfs - 12 * payload)) }
        : { ...state, waveHeightDbfs: Math.max(-72, Math.min(0, state.waveHeightDbfs - 6 * payload)) },
  },
  extraReducers: (builder) => {
    // What is done is done to the present settings: they are heard again.
    builder.addMatcher(
      ({ type }) => ['session/edited', 'session/undone', 'session/redone'].includes(type),
      (state) => (state.shownVersion ? { ...state, shownVersion: null } : state),
    );
  },
});

export const { changed, laneFolded, waveZoomed } = listeningSlice.actions;
