export { asMediaError, MediaError, type MediaErrorCode } from './errors.js';
export { loadKernels } from './kernels.js';
export { probeSound, type SoundFacts } from './probe.js';
export { decodeSound, newReport, readingNotes, type DecodeReport, type SoundBlock } from './decode.js';
export { WavEncoder, type WavFormat } from './encode.js';
export { RawWriter, readChannelFiles } from './raw-file.js';
export { collectSpan } from './collect.js';
export { measureSound, renderSound, type RenderRequest, type RenderResult } from './render.js';
export { ChannelFiles, readArrangedFiles } from './channel-files.js';
