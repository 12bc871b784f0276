// Damage to files: blind (bytes, cuts, blocks) and by structure (fields that say how much is to come). Always the same for the same seed.

/** What documents and timelines that are damaged speak of. */
export const recording = {
  id: 'r1',
  name: 'take',
  fileName: 'take.wav',
  sha256: 'a'.repeat(64),
  lengthFrames: 480_000,
  sampleRateHz: 48_000,
  channels: 1,
};

/** Uniform numbers from 0 to 1 (xorshift32). */
export function dice(seed) {
  let state = (seed * 2654435761) >>> 0 || 1;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
}
const int = (next, below) => Math.floor(next() * below);
const pick = (next, list) => list[int(next, list.length)];
const EXTREMES = [0, 1, 0x7f, 0xff, 0x7fff, 0xffff, 0x7fffffff, 0x80000000, 0xfffffffe, 0xffffffff];

const blind = [
  (bytes, next) => {
    for (let n = 1 + int(next, 20); n > 0; n--) bytes[int(next, bytes.length)] ^= 1 << int(next, 8);
    return bytes;
  },
  (bytes, next) => bytes.subarray(0, int(next, bytes.length)),
  (bytes, next) => {
    const [from, length] = [int(next, bytes.length), 1 + int(next, 4000)];
    return Buffer.concat([bytes.subarray(0, from), bytes.subarray(from + length)]);
  },
  (bytes, next) => {
    const [from, to, length] = [int(next, bytes.length), int(next, bytes.length), 1 + int(next, 4000)];
    return Buffer.concat([bytes.subarray(0, to), bytes.subarray(from, from + length), bytes.subarray(to)]);
  },
  (bytes, next) => {
    const from = int(next, bytes.length);
    bytes.fill(pick(next, [0, 0xff]), from, Math.min(bytes.length, from + 1 + int(next, 2000)));
    return bytes;
  },
  // What says how much is to come mostly stands in front.
  (bytes, next) => {
    for (let n = 1 + int(next, 3); n > 0; n--) {
      const at = int(next, Math.min(bytes.length - 4, 600));
      if (next() < 0.5) bytes.writeUInt32LE(pick(next, EXTREMES), at);
      else bytes.writeUInt32BE(pick(next, EXTREMES), at);
    }
    return bytes;
  },
];

/** Chunks of a RIFF file: where their names stand. */
function chunksOf(bytes) {
  const found = [];
  for (let at = 12; at + 8 <= bytes.length && found.length < 50; at += 8 + bytes.readUInt32LE(at + 4) + (bytes.readUInt32LE(at + 4) % 2))
    found.push(at);
  return found;
}
const riff = [
  (bytes, next) => {
    const at = pick(next, chunksOf(bytes));
    bytes.writeUInt32LE(pick(next, EXTREMES), at + 4);
    return bytes;
  },
  // Format, channels, rates, widths.
  (bytes, next) => {
    const at = chunksOf(bytes).find((place) => bytes.toString('latin1', place, place + 4) === 'fmt ');
    for (let n = 1 + int(next, 3); n > 0; n--) bytes.writeUInt16LE(pick(next, EXTREMES) & 0xffff, at + 8 + 2 * int(next, 8));
    return bytes;
  },
  (bytes, next) => {
    const chunks = chunksOf(bytes);
    const at = pick(next, chunks);
    const end = chunks[chunks.indexOf(at) + 1] ?? bytes.length;
    const copies = Array.from({ length: 1 + int(next, 40) }, () => bytes.subarray(at, Math.min(end, at + 2000)));
    return Buffer.concat([bytes.subarray(0, at), ...copies, bytes.subarray(at)]);
  },
];

/** Boxes of an MP4, those in those that hold others too. */
const HOLDERS = new Set(['moov', 'trak', 'mdia', 'minf', 'stbl', 'edts', 'udta', 'dinf']);
function boxesOf(bytes, from = 0, to = bytes.length, found = []) {
  for (let at = from; at + 8 <= to && found.length < 400;) {
    const size = bytes.readUInt32BE(at);
    if (size < 8) break;
    found.push(at);
    if (HOLDERS.has(bytes.toString('latin1', at + 4, at + 8))) boxesOf(bytes, at + 8, Math.min(to, at + size), found);
    at += size;
  }
  return found;
}
const mp4 = [
  (bytes, next) => {
    bytes.writeUInt32BE(pick(next, EXTREMES), pick(next, boxesOf(bytes)));
    return bytes;
  },
  // Counts and sizes in tables of samples.
  (bytes, next) => {
    const tables = boxesOf(bytes).filter((at) => /^(st|mv|tk|md|el|hd)/.test(bytes.toString('latin1', at + 4, at + 8)));
    const at = pick(next, tables);
    const place = at + 8 + 4 * int(next, 6);
    if (place + 4 <= bytes.length) bytes.writeUInt32BE(pick(next, EXTREMES), place);
    return bytes;
  },
  (bytes, next) => {
    const boxes = boxesOf(bytes);
    const [one, other] = [pick(next, boxes), pick(next, boxes)];
    bytes.copy(bytes, one + 4, other + 4, other + 8);
    return bytes;
  },
];

/** Pages of an Ogg, blocks of a FLAC, elements of a Matroska: somewhere behind one of their own marks. */
const behind = (mark, reach) => (bytes, next) => {
  const places = [];
  for (let at = bytes.indexOf(mark); at >= 0 && places.length < 200; at = bytes.indexOf(mark, at + 1)) places.push(at);
  if (places.length === 0) return bytes;
  const at = pick(next, places) + mark.length;
  for (let n = 1 + int(next, 4); n > 0; n--) {
    const place = at + int(next, reach);
    if (place + 4 > bytes.length) continue;
    if (next() < 0.5) bytes[place] = pick(next, EXTREMES) & 0xff;
    else bytes.writeUInt32BE(pick(next, EXTREMES), place);
  }
  return bytes;
};

const zip = [
  behind(Buffer.from('PK\x01\x02', 'latin1'), 42),
  behind(Buffer.from('PK\x03\x04', 'latin1'), 26),
  behind(Buffer.from('PK\x05\x06', 'latin1'), 18),
  (bytes, next) => {
    const name = pick(next, ['../../escape', '/etc/passwd', 'bundle.json\0', 'C:\\x', 'sources/../x', '']);
    const at = bytes.lastIndexOf('PK\x01\x02', undefined, 'latin1');
    if (at >= 0) bytes.write(name.padEnd(10, 'x'), at + 46, 'latin1');
    return bytes;
  },
];

const deep = (levels) => JSON.parse(`${'['.repeat(levels)}${']'.repeat(levels)}`);
const VALUES = [
  null,
  true,
  '',
  'x'.repeat(20_000),
  -1,
  0,
  1e308,
  -1e-308,
  2 ** 53,
  0.1,
  [],
  {},
  [[]],
  '\u0000',
  '__proto__',
  '2e9',
  -Infinity,
];
/** Values of a JSON text exchanged, left out, doubled, made deep. */
function json(bytes, next) {
  const root = JSON.parse(bytes.toString('utf8'));
  if (next() < 0.03) return Buffer.from(JSON.stringify(pick(next, VALUES)));
  for (let n = 1 + int(next, 3); n > 0; n--) {
    let [at, holder, key] = [root, null, null];
    for (let level = int(next, 14); level >= 0 && typeof at === 'object' && at !== null && Object.keys(at).length > 0; level--) {
      holder = at;
      key = pick(next, Object.keys(at));
      at = at[key];
    }
    if (!holder) continue;
    const way = next();
    if (way < 0.6) holder[key] = pick(next, VALUES);
    else if (way < 0.75) delete holder[key];
    else if (way < 0.85 && Array.isArray(holder)) holder.push(...Array.from({ length: int(next, 3000) }, () => at));
    else if (way < 0.92) holder[key] = deep(pick(next, [20, 90, 2000]));
    else holder[pick(next, ['constructor', 'toString', 'length', 'extra'])] = at;
  }
  return Buffer.from(JSON.stringify(root));
}
/** Lines and separators of a text. */
function text(bytes, next) {
  const lines = bytes.toString('utf8').split('\n');
  const at = int(next, lines.length);
  const way = int(next, 6);
  if (way === 0) lines[at] = pick(next, ['"', ',,,,,,', '-->', '99:99:99.999 --> -1', 'NaN,NaN', '\u0000', '"""']) + lines[at];
  else if (way === 1) lines.splice(at, 1);
  else if (way === 2) lines.splice(at, 0, ...Array.from({ length: int(next, 20_000) }, () => lines[at]));
  else if (way === 3) lines[at] = lines[at].repeat(1 + int(next, 200));
  else if (way === 4) lines[at] = lines[at].replace(/\d+/g, () => pick(next, ['-1', '1e400', '999999999999', '']));
  else lines[at] = lines[at].replaceAll(',', pick(next, [';', '\t', '"', '']));
  return Buffer.from(lines.join('\n'));
}

const OWN = {
  wav: riff,
  flac: [behind(Buffer.from('fLaC'), 40), behind(Buffer.from([0xff, 0xf8]), 16)],
  mp3: [behind(Buffer.from('ID3'), 10), behind(Buffer.from([0xff, 0xfb]), 36)],
  m4a: mp4,
  mp4,
  ogg: [behind(Buffer.from('OggS'), 40)],
  mkv: [
    behind(Buffer.from([0x16, 0x54, 0xae, 0x6b]), 200),
    behind(Buffer.from([0x1a, 0x45, 0xdf, 0xa3]), 60),
    behind(Buffer.from([0xa3]), 8),
  ],
  zip,
  json: [json, json, json],
  otio: [json, json, json],
  csv: [text, text, text],
  vtt: [text, text, text],
};

/** The file, damaged. @param kind of the file: an ending @returns new bytes */
export function mutated(bytes, kind, seed) {
  const next = dice(seed);
  const own = OWN[kind] ?? [];
  let damaged = Buffer.from(bytes);
  const how = own.length > 0 && next() < 0.6 ? pick(next, own) : pick(next, blind);
  damaged = how(damaged, next);
  return next() < 0.15 && damaged.length > 8 ? pick(next, blind)(Buffer.from(damaged), next) : damaged;
}
