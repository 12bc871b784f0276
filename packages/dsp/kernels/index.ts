export { frame, binRe, binIm, fftSetUp, forward, inverse } from './fft';
export { window, table, inverseNoise, speechPower, rawGain, gain, noiseReductionSetUp, reduceFrame } from './noise-reduction';
export { peakInput, taps, envelope, truePeakSetUp, truePeakProcess } from './true-peak';
export { control, limiterSetUp, limiterProcess } from './limiter';
