import { writeFileSync } from 'node:fs';
import { promisedWavSeconds } from './riff.js';
import { scratchFolder } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);

const word = (value: number): Buffer => {
  const bytes = Buffer.alloc(4);
  bytes.writeUInt32LE(value);
  return bytes;
};
const chunk = (id: string, body: Buffer, size = body.length): Buffer =>
  Buffer.concat([Buffer.from(id, 'latin1'), word(size), body, Buffer.alloc(body.length % 2)]);
/** 48 kHz, mono, 16 bit: 96 000 bytes a second. */
const format = ((): Buffer => {
  const body = Buffer.alloc(16);
  body.writeUInt16LE(1, 0);
  body.writeUInt16LE(1, 2);
  body.writeUInt32LE(48000, 4);
  body.writeUInt32LE(96000, 8);
  body.writeUInt16LE(2, 12);
  body.writeUInt16LE(16, 14);
  return chunk('fmt ', body);
})();
function promised(form: string, ...chunks: Buffer[]): Promise<number | undefined> {
  writeFileSync(files.path('h.wav'), Buffer.concat([Buffer.from(form, 'latin1'), word(0), Buffer.from('WAVE', 'latin1'), ...chunks]));
  return promisedWavSeconds(files.path('h.wav'));
}
const some = Buffer.alloc(100);

test('the size of the data chunk, whatever is really there', async () => {
  expect(await promised('RIFF', format, chunk('data', some, 192_000))).toBe(2);
});

test('other chunks before it are passed over, those of odd length with their pad byte', async () => {
  expect(
    await promised('RIFF', chunk('bext', Buffer.alloc(603)), format, chunk('LIST', Buffer.alloc(7)), chunk('data', some, 96_000)),
  ).toBe(1);
});

// EBU Tech 3306: in RF64 the data chunk says -1 and ds64 holds the size in 64 bits (riffSize, dataSize, sampleCount).
test('RF64 promises what its ds64 chunk says, beyond 4 GiB', async () => {
  const sizes = Buffer.alloc(28);
  sizes.writeBigUInt64LE(BigInt(96_000) * 100_000n, 8);
  expect(await promised('RF64', chunk('ds64', sizes), format, chunk('data', some, 0xffffffff))).toBe(100_000);
});

test.each([[0], [0xffffffff], [0x7fffffff], [0x7fffff00]])(
  'a size of %d, left by writers that did not know it, promises nothing',
  async (size) => {
    expect(await promised('RIFF', format, chunk('data', some, size))).toBeUndefined();
  },
);

test('what is no WAV, has no data, or ends in the middle of its header promises nothing', async () => {
  expect(await promised('FORM', format)).toBeUndefined();
  expect(await promised('RIFF', format)).toBeUndefined();
  expect(await promised('RIFF', chunk('LIST', some, 4_000_000_000))).toBeUndefined();
  writeFileSync(files.path('short.wav'), 'RIFF');
  expect(await promisedWavSeconds(files.path('short.wav'))).toBeUndefined();
});
