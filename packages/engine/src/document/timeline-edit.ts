import type { TimelineParts } from '../exchange/otio-read.js';

/** What a timeline from elsewhere makes of a session: one step. */
export type TimelineEdit = { readonly type: 'take-timeline'; readonly name: string } & TimelineParts;
