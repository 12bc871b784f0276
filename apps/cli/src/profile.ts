import { writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { profileToFile } from '@euphonos/dsp';
import { chainOf } from './chain-of.js';
import { loadKernels, probeSound } from '@euphonos/media';
import { readJson, readNoise, type NoiseOption } from './noise.js';

export interface ProfileOptions {
  readonly noise: Exclude<NoiseOption, { profilePath: string }>;
  /** Through what stands before its noise reduction the passages are heard. */
  readonly chainPath: string | undefined;
  readonly channels: readonly number[] | undefined;
}

/** Takes a noise profile of a file and writes it as JSON (docs/noise-profile.md). */
export async function profileFile(
  inPath: string,
  outPath: string,
  { noise, chainPath, channels: given }: ProfileOptions,
  note: (text: string) => void,
): Promise<void> {
  const chain = chainPath ? chainOf(await readJson(chainPath, 'chain file')) : { treatments: [] };
  const facts = await probeSound(inPath);
  const channels = given ?? (facts.channels === 1 ? [0] : [0, 1]);
  let taken =
    noise === 'auto'
      ? ''
      : noise.passages.map(({ startSeconds, endSeconds }) => `${startSeconds.toFixed(2)} to ${endSeconds.toFixed(2)} s`).join(', ');
  const profile = await readNoise({ path: inPath, facts, channels }, chain, noise, loadKernels(), (text) => {
    taken ||= text;
    note(text);
  });
  const name = basename(inPath).replace(/\.[^.]+$/, '');
  await writeFile(outPath, JSON.stringify(profileToFile(profile, name, `${basename(inPath)}, ${taken}`)));
}
