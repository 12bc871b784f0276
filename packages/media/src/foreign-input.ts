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
/** Pictures, covers and subtitles that stand beside the sound. */
const BESIDE = [
  ...['h264', 'hevc', 'vp8', 'vp9', 'libdav1d', 'av1', 'mpeg4', 'mpeg2video', 'mpeg1video', 'h263', 'prores', 'dnxhd', 'dvvideo', 'cfhd'],
  ...['ffv1', 'huffyuv', 'ffvhuff', 'qtrle', 'rawvideo', 'v210', 'mjpeg', 'png', 'webp', 'bmp', 'gif'],
  ...['mov_text', 'subrip', 'srt', 'ass', 'ssa', 'webvtt', 'text'],
];
const CODECS = [...SOUND, ...PCM, ...BESIDE].join();
/** 8192 x 8192: twice the sides of the largest pictures that sound comes with. */
const MOST_PIXELS = 1 << 26;
const THREADS = 2;

/**
 * Options in front of every input that came from elsewhere: local files only, known containers, codecs and sizes of pictures only, two
 * threads. What is not listed is not decoded, however it came into a container.
 */
export const inputOptions = (path: string): string[] => [
  ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', FORMATS, '-codec_whitelist', CODECS],
  ...['-max_pixels', String(MOST_PIXELS), '-threads', String(THREADS), '-i', `file:${path}`],
];
