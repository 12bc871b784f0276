/** WAV (RF64, BWF), AIFF, FLAC, MP3, AAC, Ogg (Vorbis, Opus, FLAC), MP4/MOV/M4A, Matroska/WebM. Nothing that names other files. */
const FORMATS = 'wav,w64,aiff,flac,mp3,aac,ogg,mov,matroska';

/** Coded sound that these containers hold in practice; beside them every kind of PCM. */
const SOUND = [
  ...['aac', 'aac_latm', 'ac3', 'eac3', 'alac', 'flac', 'mp1float', 'mp1', 'mp2float', 'mp2', 'mp3float', 'mp3', 'opus', 'libopus'],
  ...['vorbis', 'libvorbis', 'wavpack', 'dca', 'truehd', 'adpcm_ms', 'adpcm_ima_wav', 'adpcm_ima_qt', 'gsm', 'gsm_ms'],
];
const PCM = ['s16', 's24', 's32', 's64', 'f32', 'f64', 'u16', 'u24', 'u32']
  .flatMap((kind) => [`pcm_${kind}le`, `pcm_${kind}be`])
  .concat('pcm_u8', 'pcm_s8', 'pcm_alaw', 'pcm_mulaw', 'pcm_bluray', 'pcm_dvd');
/** Moving pictures that are decoded, to be shown small. */
const PICTURES = [
  ...['h264', 'hevc', 'vp8', 'vp9', 'libdav1d', 'av1', 'mpeg4', 'mpeg2video', 'mpeg1video', 'h263', 'prores', 'dnxhd', 'dvvideo', 'cfhd'],
  ...['ffv1', 'huffyuv', 'ffvhuff', 'qtrle', 'rawvideo', 'v210', 'mjpeg', 'png'],
];
const MOST_PIXELS = 8192 * 8192;
const THREADS = 2;

/**
 * Options in front of every input that came from elsewhere: local files only, known containers, the first sound in a known coding, no larger
 * pictures, two threads. What stands beside that sound (pictures, subtitles, data) may be anything: it is copied, never refused.
 */
export const inputOptions = (path: string): string[] => [
  ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', FORMATS, '-codec_whitelist:a:0', [...SOUND, ...PCM].join()],
  ...['-max_pixels', String(MOST_PIXELS), '-threads', String(THREADS), '-i', `file:${path}`],
];

/** The same where the picture itself is decoded: one in a known coding. */
export const pictureOptions = (path: string): string[] => ['-codec_whitelist:v', PICTURES.join(), ...inputOptions(path)];
