import { execFile } from 'node:child_process';
import { stat } from 'node:fs/promises';
import { promisify } from 'node:util';
import { MediaError } from './errors.js';
import { loudnessWeights } from './loudness-weights.js';
import { promisedWavSeconds } from './riff.js';
import { plainWav, plainWavSeconds } from './wav-reader.js';

/** What a file says of its sound. */
export interface SoundFacts {
  readonly format: string;
  readonly codec: string;
  readonly sampleRateHz: number;
  readonly channels: number;
  /** How much each channel counts in the loudness (ITU-R BS.1770). */
  readonly loudnessWeights: readonly number[];
  /** As the file states it; undefined when it does not. */
  readonly statedSeconds: number | undefined;
}

/** WAV (RF64, BWF), AIFF, FLAC, MP3, AAC, Ogg (Vorbis, Opus, FLAC), MP4/MOV/M4A, Matroska/WebM. Nothing that names other files. */
const FORMATS = 'wav,w64,aiff,flac,mp3,aac,ogg,mov,matroska';

/** Options in front of every input: local files only, known containers only. */
export const inputOptions = (path: string): string[] => [
  '-protocol_whitelist',
  'file,pipe',
  '-format_whitelist',
  FORMATS,
  '-i',
  `file:${path}`,
];

const run = promisify(execFile);

/**
 * Reads the facts of a file's first sound stream.
 * @throws {MediaError} `file-missing`, `file-empty`, `not-audio`, `sample-rate` (8 … 192 kHz) or `ffmpeg-missing`
 */
export async function probeSound(path: string): Promise<SoundFacts> {
  const size = await stat(path).then(
    (stats) => (stats.isFile() ? stats.size : -1),
    () => -1,
  );
  if (size < 0) throw new MediaError('file-missing', `There is no file "${path}".`);
  if (size === 0) throw new MediaError('file-empty', 'The file is empty (0 bytes). Was it copied completely?');
  const wav = await plainWav(path);
  if (wav) {
    requireRate(wav.sampleRateHz);
    const { codec, sampleRateHz, channels } = wav;
    const stated = plainWavSeconds(wav, size);
    return {
      format: 'wav',
      codec,
      sampleRateHz,
      channels,
      loudnessWeights: loudnessWeights(channels === 1 ? 'mono' : 'stereo', channels),
      statedSeconds: stated > 0 ? stated : undefined,
    };
  }
  const { stream, format } = await ffprobe(path);
  if (!stream?.['sample_rate'])
    throw new MediaError(
      'not-audio',
      'No sound was found in the file. Known are WAV, AIFF, FLAC, MP3, M4A, Ogg and the sound of MP4, MOV, MKV and WebM.',
    );
  const sampleRateHz = Number(stream['sample_rate']);
  requireRate(sampleRateHz);
  const promised = format?.['format_name'] === 'wav' ? await promisedWavSeconds(path) : undefined;
  const stated = promised ?? Number(stream['duration'] ?? format?.['duration']);
  return {
    format: String(format?.['format_name'] ?? ''),
    codec: String(stream['codec_name']),
    sampleRateHz,
    channels: Number(stream['channels']),
    loudnessWeights: loudnessWeights(stream['channel_layout'] as string | undefined, Number(stream['channels'])),
    statedSeconds: Number.isFinite(stated) && stated > 0 ? stated : undefined,
  };
}

function requireRate(sampleRateHz: number): void {
  if (!(sampleRateHz >= 8000 && sampleRateHz <= 192000))
    throw new MediaError('sample-rate', `The sample rate is ${sampleRateHz} Hz; 8000 to 192000 Hz are read.`, { sampleRateHz });
}

async function ffprobe(path: string): Promise<{ stream?: Record<string, unknown> | undefined; format?: Record<string, unknown> }> {
  const args = ['-v', 'error', '-of', 'json', '-show_format', '-show_streams', '-select_streams', 'a:0', ...inputOptions(path)];
  try {
    const { stdout } = await run('ffprobe', args, { maxBuffer: 1 << 24 });
    const json = JSON.parse(stdout) as { streams?: Record<string, unknown>[]; format?: Record<string, unknown> };
    return { stream: json.streams?.[0], ...(json.format ? { format: json.format } : {}) };
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT')
      throw new MediaError('ffmpeg-missing', 'ffprobe is not installed; it comes with the Debian package ffmpeg.');
    return {};
  }
}
