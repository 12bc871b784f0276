export * from './jobs.js';
export * from './profiles.js';
export * from './recordings.js';
export * from './renders.js';
export * from './sessions.js';
export * from './surveys.js';
