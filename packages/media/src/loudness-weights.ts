/** Left, right and centre count once, surrounds 1.41 times, the low-frequency channel not at all: ITU-R BS.1770-5, table 3. */
const SURROUND = 1.41;

/** Channels of the layouts that ffmpeg names, in its order: m(ain), s(urround), l(ow frequencies). */
const LAYOUTS: Readonly<Record<string, string>> = {
  '2.1': 'mml',
  '3.0': 'mmm',
  '3.1': 'mmml',
  '3.0(back)': 'mms',
  '4.0': 'mmms',
  '4.1': 'mmmls',
  quad: 'mmss',
  'quad(side)': 'mmss',
  '5.0': 'mmmss',
  '5.0(side)': 'mmmss',
  '5.1': 'mmmlss',
  '5.1(side)': 'mmmlss',
  '6.1': 'mmmlsss',
  '7.0': 'mmmssss',
  '7.1': 'mmmlssss',
};

/** The weight of each channel in the loudness; of an unknown layout every channel counts once. */
export function loudnessWeights(layout: string | undefined, channels: number): number[] {
  const kinds = layout === undefined ? undefined : LAYOUTS[layout];
  if (kinds?.length !== channels) return new Array<number>(channels).fill(1);
  return Array.from(kinds, (kind) => (kind === 'm' ? 1 : kind === 's' ? SURROUND : 0));
}
