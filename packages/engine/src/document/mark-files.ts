import { EngineError } from '../errors.js';
import { LONGEST_MARK_NAME, LONGEST_MARK_NOTE, MOST_MARKS, type Mark } from './document.js';

/** A mark as it is read from a file: it has no id yet. */
export type ReadMark = Omit<Mark, 'id'>;

const refuse = (message: string, line?: number): never => {
  throw new EngineError('marks-file', line === undefined ? message : `Line ${line}: ${message}`, line === undefined ? {} : { line });
};

/** Seconds, or h:mm:ss with a fraction after a point or a comma; undefined for anything else. */
function secondsOf(text: string): number | undefined {
  const match = /^(?:(?:(\d+):)?([0-5]?\d):)?(\d+(?:[.,]\d+)?)$/.exec(text.trim());
  if (!match) return undefined;
  const [, hours, minutes, seconds] = match;
  const value = Number(seconds!.replace(',', '.'));
  if (minutes !== undefined && value >= 60) return undefined;
  return Number(hours ?? 0) * 3600 + Number(minutes ?? 0) * 60 + value;
}

const kept = (marks: readonly ReadMark[]): ReadMark[] => {
  if (marks.length > MOST_MARKS) refuse(`The file holds ${marks.length} marks; a session holds up to ${MOST_MARKS}.`);
  return [...marks].sort((a, b) => a.startFrame - b.startFrame);
};

function markOf(startSeconds: number, endSeconds: number | null, name: string, note: string, sampleRateHz: number): ReadMark {
  const startFrame = Math.round(startSeconds * sampleRateHz);
  const endFrame = endSeconds === null ? null : Math.round(endSeconds * sampleRateHz);
  return {
    name: name.trim().slice(0, LONGEST_MARK_NAME),
    startFrame,
    // What ends where it begins is a place.
    endFrame: endFrame !== null && endFrame > startFrame ? endFrame : null,
    note: note.replace(/\r\n?/g, '\n').slice(0, LONGEST_MARK_NOTE),
  };
}

/** Marks as a table (RFC 4180): start and end in seconds, exact to the frame; name; note. A place has no end. */
export function marksAsCsv(marks: readonly Mark[], sampleRateHz: number): string {
  const field = (text: string): string => (/[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  const seconds = (frame: number): string => (frame / sampleRateHz).toFixed(6);
  const rows = marks.map(({ startFrame, endFrame, name, note }) =>
    [seconds(startFrame), endFrame === null ? '' : seconds(endFrame), field(name), field(note)].join(','),
  );
  return ['start,end,name,note', ...rows, ''].join('\r\n');
}

/** Fields of a table, row by row with the line that each begins on (RFC 4180; also parted by semicolons or tabs). */
function rowsOf(text: string, separator: string): { readonly line: number; readonly fields: string[] }[] {
  const rows: { line: number; fields: string[] }[] = [];
  let [field, quoted, line, begun] = ['', false, 1, 1];
  let fields: string[] = [];
  const endRow = (): void => {
    fields.push(field);
    if (fields.some((one) => one !== '')) rows.push({ line: begun, fields });
    fields = [];
    field = '';
    begun = line + 1;
  };
  for (let i = 0; i < text.length; i++) {
    const sign = text[i]!;
    if (quoted) {
      if (sign === '"' && text[i + 1] === '"') field += text[++i]!;
      else if (sign === '"') quoted = false;
      else field += sign;
    } else if (sign === '"' && field === '') quoted = true;
    else if (sign === separator) {
      fields.push(field);
      field = '';
    } else if (sign === '\n') endRow();
    else if (sign !== '\r') field += sign;
    if (sign === '\n') line++;
  }
  if (quoted) refuse('A quotation mark is not closed.', begun);
  endRow();
  return rows;
}

/**
 * Reads marks from a table with the columns start, end, name and note in its first row, in any order; only start is needed. Times are seconds
 * or h:mm:ss.mmm. @throws {EngineError} `marks-file` with the line
 */
export function marksFromCsv(text: string, sampleRateHz: number): ReadMark[] {
  const clean = text.replace(/^\ufeff/, '');
  const [head = ''] = clean.split(/\r?\n/, 1);
  const separator = ['\t', ';', ','].find((sign) => head.includes(sign)) ?? ',';
  const [first, ...rows] = rowsOf(clean, separator);
  const columns = (first?.fields ?? []).map((one) => one.trim().toLowerCase());
  if (!columns.includes('start')) refuse('The first row names the columns: start, end, name, note; "start" is missing.', 1);
  return kept(
    rows.map(({ line, fields }) => {
      const field = (name: string): string => fields[columns.indexOf(name)] ?? '';
      const time = (name: string): number => secondsOf(field(name)) ?? refuse(`"${field(name)}" is no time; 12.5 and 0:12.500 are.`, line);
      return markOf(time('start'), field('end').trim() === '' ? null : time('end'), field('name'), field('note'), sampleRateHz);
    }),
  );
}

const TEXT_SIGNS = [
  ['&', '&amp;'],
  ['<', '&lt;'],
  ['>', '&gt;'],
] as const;

/** hh:mm:ss.mmm */
function cueTime(seconds: number): string {
  const ms = Math.round(1000 * seconds);
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${two(Math.floor(ms / 3_600_000))}:${two(Math.floor(ms / 60_000) % 60)}:${two(Math.floor(ms / 1000) % 60)}.${String(ms % 1000).padStart(3, '0')}`;
}
/** A place is a cue of this length, and says that it is one. */
const PLACE_SECONDS = 0.001;
const PLACE = /^place\b/;

/** Marks as cues (WebVTT, W3C), exact to the millisecond: the name is the first line, the note what follows; a place is named so by its identifier. */
export function marksAsVtt(marks: readonly Mark[], sampleRateHz: number): string {
  const escaped = (text: string): string =>
    TEXT_SIGNS.reduce((done, [sign, word]) => done.replaceAll(sign, word), text)
      .replace(/\r\n?/g, '\n')
      // An empty line would end the cue.
      .replace(/\n{2,}/g, '\n');
  const cues = marks.map(({ startFrame, endFrame, name, note }, i) => {
    const start = startFrame / sampleRateHz;
    const end = endFrame === null ? start + PLACE_SECONDS : endFrame / sampleRateHz;
    return `${endFrame === null ? 'place' : 'passage'} ${i + 1}\n${cueTime(start)} --> ${cueTime(Math.max(end, start + PLACE_SECONDS))}\n${escaped(name) || '–'}${note ? `\n${escaped(note)}` : ''}\n`;
  });
  return ['WEBVTT\n', ...cues].join('\n');
}

/** Reads marks from cues. @throws {EngineError} `marks-file` with the line */
export function marksFromVtt(text: string, sampleRateHz: number): ReadMark[] {
  const lines = text.replace(/^\ufeff/, '').split(/\r\n|\r|\n/);
  if (!/^WEBVTT(?:[ \t].*)?$/.test(lines[0]!)) refuse('The first line is "WEBVTT".', 1);
  const words = (raw: string): string =>
    [...TEXT_SIGNS].reverse().reduce((done, [sign, word]) => done.replaceAll(word, sign), raw.replace(/<[^<>]*>/g, ''));
  const marks: ReadMark[] = [];
  for (let i = 1; i < lines.length; i++) {
    if (!lines[i]!.includes('-->')) continue;
    const [from, to] = lines[i]!.split('-->').map((part) => secondsOf(part.trim().split(/[ \t]/)[0]!));
    if (from === undefined || to === undefined) refuse(`"${lines[i]!.trim()}" is no pair of times.`, i + 1);
    const identifier = lines[i - 1]!.trim();
    const said: string[] = [];
    // A cue ends with an empty line, or where the times of another one stand (WebVTT, 6.1: collect a block).
    while (i + 1 < lines.length && lines[i + 1] !== '' && !lines[i + 1]!.includes('-->')) said.push(words(lines[++i]!));
    const [name = '', ...note] = said;
    marks.push(markOf(from!, PLACE.test(identifier) ? null : to!, name === '–' ? '' : name, note.join('\n'), sampleRateHz));
  }
  return kept(marks);
}
