import type { Track } from '@euphonos/engine';

/** A track in a few words. */
export const noticeName = ({ name, role, muted }: Pick<Track, 'name' | 'role' | 'muted'>): string =>
  `${name}, ${role === 'bed' ? 'a bed' : 'speech'}${muted ? ', left out' : ''}`;
