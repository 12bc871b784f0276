export { frame, binRe, binIm, fftSetUp, forward, inverse } from './fft';
export { window, history, overlap, table, inverseNoise, speechPower, rawGain, gain, noiseReductionSetUp, reduceFrame, reduceHop } from './noise-reduction';
export { peakInput, taps, envelope, truePeakSetUp, truePeakProcess } from './true-peak';
export { control, limited, limiterSetUp, limiterProcess } from './limiter';
export { coefficients, sectionState, signal, cascadeSetUp, cascadeProcess, cascadeEnergy } from './cascade';
export { gateLines, gated, gateSetUp, gateReset, gateProcess } from './gate';
export { strip, predictionError, modelWindow, models, missing, arSetUp, arModel, arResidual, arInterpolate } from './autoregressive';
export { weighHistory, weighWindow, weighOverlap, weighPower, weighGain, weighSetUp, weighAnalyse, weighAdd } from './weighing';
export { classHistory, classWindow, classPower, classSums, classSetUp, classAnalyse, classAdd } from './class-spectra';
