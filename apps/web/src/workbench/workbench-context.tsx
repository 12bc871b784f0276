import type { NoiseProfile } from '@euphonos/dsp';
import { endOf, type ChainPrice, type Reel, type SessionDocument } from '@euphonos/engine';
import type { RecordingView } from '@euphonos/contracts';
import { createContext, useContext, useEffect, useRef, useState, useSyncExternalStore, type ReactNode } from 'react';
import { toast } from 'sonner';
import { shownTrack, type SessionState } from '../store/session-slice.js';
import { store, useApp } from '../store/store.js';
import type { Figures } from '../passage/passage.js';
import type { Effects, Spectra } from '../passage/figures-computer.js';
import type { TrackSound } from '../audio/arranged.js';
import { goOnAt, placeOf, type Place } from './place.js';
import { Workbench } from './workbench.js';

const Context = createContext<Workbench | null>(null);

declare global {
  interface Window {
    /** The workbench that is open, for tests that listen to what comes out of the audio thread. */
    euphonosWorkbench?: Workbench | undefined;
  }
}

export function useWorkbench(): Workbench {
  const workbench = useContext(Context);
  if (!workbench) throw new Error('useWorkbench outside of a session');
  return workbench;
}

export function useFigures(): Figures | null {
  const workbench = useWorkbench();
  return useSyncExternalStore(workbench.subscribe, () => workbench.figures);
}

/** The clips of the track that is heard and seen. */
export function useTrackSound(): TrackSound {
  const workbench = useWorkbench();
  return useSyncExternalStore(workbench.subscribe, () => workbench.sound);
}

/** What one treatment does in the loop; null until it is measured. */
export function useEffectOf(treatmentId: string): Effects[number] | null {
  const workbench = useWorkbench();
  return useSyncExternalStore(workbench.subscribe, () => workbench.effects?.find(({ id }) => id === treatmentId) ?? null);
}

/** Long-term spectra of source and result. */
export function useSpectra(): Spectra | null {
  const workbench = useWorkbench();
  useEffect(() => workbench.watchSpectra(), [workbench]);
  return useSyncExternalStore(workbench.subscribe, () => workbench.spectra);
}

/** What the noise reduction of this id takes and costs at every depth in the loop; null until it is measured. */
export function usePrice(treatmentId: string): ChainPrice | null {
  const workbench = useWorkbench();
  useEffect(() => workbench.watchPrice(), [workbench]);
  return usePriceIfMeasured(treatmentId);
}

/** The same, when somebody else has it measured. */
export function usePriceIfMeasured(treatmentId: string): ChainPrice | null {
  const workbench = useWorkbench();
  return useSyncExternalStore(workbench.subscribe, () => (workbench.price?.treatmentId === treatmentId ? workbench.price : null));
}

/** What is known of the noise; null while nothing is. */
export function useProfile(): NoiseProfile | null {
  const workbench = useWorkbench();
  return useSyncExternalStore(workbench.subscribe, () => workbench.profile);
}

/** The same of all tracks together, for the chain on the whole. */
export function useWholeProfile(): NoiseProfile | null {
  const workbench = useWorkbench();
  return useSyncExternalStore(workbench.subscribe, () => workbench.mixing.wholeProfile);
}

const lengthOf = ({ tracks }: SessionDocument): number => Math.max(...tracks.map(({ clips }) => endOf(clips)));
const sessionFrames = (session: SessionState | null): number => (session?.history ? lengthOf(session.history.present) : 0);

/** Tells of trouble once, not at every retry. */
const tellTrouble = (error: unknown): void => {
  toast.error(error instanceof Error ? error.message : String(error), { id: 'workbench-trouble' });
};

interface Props {
  readonly recordings: readonly RecordingView[];
  readonly sampleRateHz: number;
  readonly children: ReactNode;
}

/** Opens the sound and the pictures of the session's track and keeps them in step with the store. */
export function WorkbenchProvider({ recordings, sampleRateHz, children }: Props) {
  const track = useApp(({ session, listening }) => shownTrack(session, listening));
  const lane = useApp(({ listening }) => listening.lane);
  const aside = useApp(({ listening }) => listening.aside);
  const auditioned = useApp(({ listening }) => (listening.auditioning ? listening.selection : null));
  const looping = useApp(({ listening }) => listening.looping);
  const equalLoudness = useApp(({ listening }) => listening.equalLoudness);
  const [workbench, setWorkbench] = useState<Workbench | null>(null);
  /** Where the track before was seen and heard: another one of the session goes on there. */
  const place = useRef<Place | null>(null);
  // An edit leaves the reel alone, but for one that puts another recording on it, or hears another channel.
  const reel = track ? JSON.stringify(track.reel) : '';
  const allChannels = JSON.stringify(
    track?.reel.map(({ recordingId }) => [recordingId, recordings.find(({ id }) => id === recordingId)?.facts?.channels ?? 0]) ?? [],
  );

  useEffect(() => {
    if (reel === '') return undefined;
    const made = new Workbench(JSON.parse(reel) as Reel, new Map(JSON.parse(allChannels) as [string, number][]), sampleRateHz, tellTrouble);
    window.euphonosWorkbench = made;
    made.setSessionFrames(sessionFrames(store.getState().session));
    const { session, listening } = store.getState();
    const first = shownTrack(session, listening);
    // Its clips must be known before it goes on where the other was: a frame of the session is meant.
    if (first) made.setTrack(first);
    if (place.current) goOnAt(made, place.current, tellTrouble);
    else made.player.seek(0);
    setWorkbench(made);
    return () => {
      place.current = placeOf(made);
      made.close();
      window.euphonosWorkbench = undefined;
    };
  }, [reel, allChannels, sampleRateHz]);

  useEffect(() => {
    if (workbench && track) workbench.setTrack(track);
  }, [workbench, track]);
  // What is heard alone comes out of the chain as its result.
  // A span that is only heard for once is heard as it came.
  useEffect(() => workbench?.player.setLane(auditioned ? 'source' : aside ? 'result' : lane), [workbench, lane, aside, auditioned]);
  useEffect(() => workbench?.hearAside(aside), [workbench, aside]);
  useEffect(() => workbench?.setLoop(looping ? (track?.loop ?? null) : null, auditioned), [workbench, looping, track?.loop, auditioned]);
  const document = useApp(({ session }) => session?.history?.present ?? null);
  const together = useApp(({ listening }) => listening.together || listening.solo.length > 0);
  const solo = useApp(({ listening }) => listening.solo);
  useEffect(() => workbench?.setSessionFrames(document ? lengthOf(document) : 0), [workbench, document]);
  useEffect(() => {
    if (!workbench || !document || !track) return;
    // What is only heard aside is heard without anything else.
    const mixes = together && !aside && !auditioned;
    workbench.mixing.set({ document, own: track, together: mixes, solo });
  }, [workbench, document, track, together, solo, aside, auditioned]);
  const speed = useApp(({ listening }) => listening.speed);
  useEffect(() => workbench?.player.setSpeed(speed), [workbench, speed]);
  useEffect(() => workbench?.setEqualLoudness(equalLoudness), [workbench, equalLoudness]);

  return workbench ? <Context.Provider value={workbench}>{children}</Context.Provider> : null;
}
