import { bitsOf, fileFormats, fileWords, formatOfName, isLossy, kbpsOf, PLAIN_FILE, rateOf, requireFileSpec } from './file-spec.js';

test('what is left out is as usual: a WAV of 24 bits, dithered, with the rate and the channels of the session', () => {
  expect(requireFileSpec(undefined)).toEqual(PLAIN_FILE);
  expect(requireFileSpec({ format: 'flac', bits: 16 })).toEqual({ ...PLAIN_FILE, format: 'flac', bits: 16 });
  for (const format of fileFormats) expect(requireFileSpec({ format })).toMatchObject({ format });
});

test.each([
  [{ format: 'wma' }, 'one of wav, aiff'],
  [{ bits: 20 }, '16, 24 or "32f"; 20'],
  [{ format: 'aiff', bits: '32f' }, 'AIFF is written with 16 or 24 bits; 32f'],
  [{ format: 'mp3', bitrateKbps: 8 }, 'from 32 to 320 kbit/s; 8'],
  [{ format: 'mp3', bitrateKbps: NaN }, 'from 32 to 320'],
  [{ format: 'opus', sampleRateHz: 44_100 }, 'Opus has rates of 48000 Hz; 44100'],
  [{ sampleRateHz: 7999 }, 'from 8000 to 192000 Hz; 7999'],
  [{ channels: 6 }, '1 or 2 channels'],
  [{ dither: 'yes' }, 'true or false'],
  [{ variable: 1 }, 'true or false'],
  [[], 'an object'],
])('%j is refused in words', (json, words) => {
  expect(() => requireFileSpec(json)).toThrow(words);
});

test('a rate that a format does not know becomes the next one above', () => {
  const of = (format: (typeof fileFormats)[number], sampleRateHz: number | null = null) => ({ ...PLAIN_FILE, format, sampleRateHz });
  expect([rateOf(of('wav'), 44_100), rateOf(of('wav', 96_000), 44_100)]).toEqual([44_100, 96_000]);
  expect([rateOf(of('opus'), 44_100), rateOf(of('mp3'), 96_000), rateOf(of('mp3'), 11_025), rateOf(of('m4a'), 192_000)]).toEqual([
    48_000, 48_000, 16_000, 96_000,
  ]);
});

test('formats with loss have no depth; of others the most that they keep', () => {
  expect(fileFormats.filter((format) => isLossy({ format }))).toEqual(['mp3', 'm4a', 'opus', 'ogg']);
  expect(bitsOf({ ...PLAIN_FILE, format: 'aiff', bits: '32f' })).toBe(24);
  expect(bitsOf({ ...PLAIN_FILE, format: 'mp3' })).toBeNull();
});

test('in words, and by a file’s name', () => {
  expect(fileWords(PLAIN_FILE, 48_000, 1)).toBe('WAV, 24 bits');
  expect(fileWords({ ...PLAIN_FILE, bits: '32f' }, 48_000, 1)).toBe('WAV, 32-bit float');
  expect(fileWords({ ...PLAIN_FILE, format: 'mp3', variable: true }, 48_000, 1)).toBe('MP3, about 192 kbit/s');
  expect(fileWords({ ...PLAIN_FILE, format: 'm4a', variable: true }, 48_000, 1)).toBe('AAC in M4A, 192 kbit/s');
  expect(['a.WAV', 'a.aif', 'a.aiff', 'b.c.mp3', 'x.opus', 'x.txt', 'x'].map(formatOfName)).toEqual([
    'wav',
    'aiff',
    'aiff',
    'mp3',
    'opus',
    undefined,
    undefined,
  ]);
});

test('the bit rate that is written is told: steps of layer III, and what a rate and its channels take', () => {
  const kbps = (format: 'mp3' | 'ogg' | 'opus', bitrateKbps: number, rateHz: number, channels: number, variable = false) =>
    kbpsOf({ ...PLAIN_FILE, format, bitrateKbps, variable }, rateHz, channels);
  expect([kbps('mp3', 200, 48_000, 2), kbps('mp3', 200, 48_000, 2, true), kbps('mp3', 320, 22_050, 1)]).toEqual([192, 200, 160]);
  expect([kbps('ogg', 320, 48_000, 1), kbps('ogg', 320, 48_000, 2), kbps('ogg', 192, 8000, 1), kbps('ogg', 20, 44_100, 2)]).toEqual([
    224, 320, 32, 48,
  ]);
  expect(kbps('opus', 100, 48_000, 1)).toBe(100);
  expect(fileWords({ ...PLAIN_FILE, format: 'ogg', bitrateKbps: 320 }, 48_000, 1)).toBe('Ogg Vorbis, 224 kbit/s');
  expect(rateOf({ ...PLAIN_FILE, format: 'ogg' }, 96_000)).toBe(48_000);
});
