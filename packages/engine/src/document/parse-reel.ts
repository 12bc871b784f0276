import { fail, frame, list, object, text, type Json } from './json.js';
import { MOST_PARTS, partEnd, type Reel, type ReelPart } from './reel.js';

function channels(value: unknown, where: string): number[] {
  const read = list(value, where).map((channel) => frame(channel, where));
  return read.length >= 1 && read.length <= 2 ? read : fail(where, 'must name one or two channels');
}

function part(value: unknown, where: string): ReelPart {
  const json = object(value, where);
  const frames = frame(json['frames'], `${where}.frames`);
  return {
    recordingId: text(json['recordingId'], `${where}.recordingId`),
    channels: channels(json['channels'], `${where}.channels`),
    startFrame: frame(json['startFrame'], `${where}.startFrame`),
    frames: frames > 0 ? frames : fail(`${where}.frames`, 'must be more than nothing'),
  };
}

/** Recordings of a track: the first at 0, none over another, all with as many channels. */
export function parseReel(value: unknown, where: string): Reel {
  const reel = list(value, where).map((item, i) => part(item, `${where}[${i}]`));
  if (reel.length === 0 || reel.length > MOST_PARTS) fail(where, `must hold 1 to ${MOST_PARTS} recordings`);
  const good = reel.every(
    ({ startFrame, channels: { length } }, i) =>
      length === reel[0]!.channels.length && (i === 0 ? startFrame === 0 : startFrame > partEnd(reel[i - 1]!)),
  );
  return good ? reel : fail(where, 'must begin at 0, with recordings apart from each other and as many channels of each');
}

/** Before the fourth schema a track had one recording. */
export const reelOfOne = (json: Json, where: string): Reel =>
  parseReel([{ recordingId: json['recordingId'], channels: json['channels'], startFrame: 0, frames: json['recordingFrames'] }], where);
