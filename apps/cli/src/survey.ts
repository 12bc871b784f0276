import { findingsFor, MOST_SURVEYED_CHANNELS, Surveyor, type Finding, type Survey } from '@euphonos/dsp';
import { loadKernels, newReport, decodeSound, probeSound, readingNotes } from '@euphonos/media';

/** Surveys a sound file at its own sample rate. Progress in percent goes to `progress`, what was odd about the file to `note`. */
export async function surveyFile(path: string, note: (text: string) => void, progress: (percent: number) => void): Promise<Survey> {
  const facts = await probeSound(path);
  const channels = Math.min(MOST_SURVEYED_CHANNELS, facts.channels);
  const report = newReport();
  const surveyor = new Surveyor(loadKernels(), facts.sampleRateHz, channels);
  const expected = (facts.statedSeconds ?? 0) * facts.sampleRateHz;
  for await (const block of decodeSound(path, facts, { channels: Array.from({ length: channels }, (_, c) => c) }, report)) {
    surveyor.process(block.channels, block.frames);
    if (expected > 0) progress(Math.min(99, Math.floor((report.frames / expected) * 100)));
  }
  readingNotes(facts, report, facts.sampleRateHz).forEach(note);
  const survey = surveyor.finish();
  progress(100);
  return survey;
}

/** What is found of the channels that are worked on, counted from 0. */
export async function findingsOf(path: string, channels: readonly number[]): Promise<readonly Finding[]> {
  const { findings } = await surveyFile(
    path,
    () => undefined,
    () => undefined,
  );
  return findingsFor(findings, channels);
}
