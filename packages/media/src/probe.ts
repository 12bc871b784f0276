import { stat } from 'node:fs/promises';
import { MediaError } from './errors.js';
import { loudnessWeights } from './loudness-weights.js';
import { promisedWavSeconds } from './riff.js';
import { probeJson, ToolFailure } from './tools.js';
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

/** More than any desk records at once; each becomes a file of its own. */
const MOST_CHANNELS = 64;

/**
 * Reads the facts of a file's first sound stream.
 * @throws {MediaError} `file-missing`, `file-empty`, `not-audio`, `sample-rate` (8 … 192 kHz), `channel-count` (up to 64),
 * `tool-limit` or `ffmpeg-missing`
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
  const { streams, format } = await ffprobe(path);
  const stream = streams?.[0];
  if (!stream?.['sample_rate'])
    throw new MediaError(
      'not-audio',
      'No sound was found in the file. Known are WAV, AIFF, FLAC, MP3, M4A, Ogg and the sound of MP4, MOV, MKV and WebM.',
    );
  const sampleRateHz = Number(stream['sample_rate']);
  requireRate(sampleRateHz);
  const channels = Number(stream['channels']);
  if (channels > MOST_CHANNELS)
    throw new MediaError('channel-count', `The file has ${channels} channels; up to ${MOST_CHANNELS} are read.`, { channels });
  const promised = format?.['format_name'] === 'wav' ? await promisedWavSeconds(path) : undefined;
  const stated = promised ?? statedSeconds(stream, format);
  return {
    format: String(format?.['format_name'] ?? ''),
    codec: String(stream['codec_name']),
    sampleRateHz,
    channels,
    loudnessWeights: loudnessWeights(stream['channel_layout'] as string | undefined, channels),
    statedSeconds: Number.isFinite(stated) && stated > 0 ? stated : undefined,
  };
}

function requireRate(sampleRateHz: number): void {
  if (!(sampleRateHz >= 8000 && sampleRateHz <= 192000))
    throw new MediaError('sample-rate', `The sample rate is ${sampleRateHz} Hz; 8000 to 192000 Hz are read.`, { sampleRateHz });
}

/**
 * How long the sound is said to be. Matroska says it of the whole, of which a picture may be longer, and of each stream in a tag only
 * (its specification, "Official tags"); of a whole with a picture and without such a tag nothing is known of the sound.
 */
function statedSeconds(stream: Record<string, unknown>, format: Record<string, unknown> | undefined): number {
  if (stream['duration'] !== undefined) return Number(stream['duration']);
  const tagged = /^(\d+):(\d\d):(\d\d(?:\.\d+)?)/.exec(String((stream['tags'] as Record<string, unknown> | undefined)?.['DURATION'] ?? ''));
  if (tagged) return Number(tagged[1]) * 3600 + Number(tagged[2]) * 60 + Number(tagged[3]);
  return Number(format?.['nb_streams']) === 1 ? Number(format?.['duration']) : NaN;
}

interface Probed {
  readonly streams?: readonly Record<string, unknown>[];
  readonly format?: Record<string, unknown>;
}

/** Nothing where it is no file of a known kind. */
const ffprobe = (path: string): Promise<Probed> =>
  probeJson<Probed>(path, ['-show_format', '-show_streams', '-select_streams', 'a:0']).catch((error: unknown) => {
    if (error instanceof ToolFailure) return {};
    throw error;
  });
