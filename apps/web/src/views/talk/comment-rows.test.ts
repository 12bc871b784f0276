import type { CommentView } from '@euphonos/contracts';
import { placeComments } from './comment-rows.js';

const said = (id: string, startFrame: number | null, endFrame: number | null = null): CommentView =>
  ({ id, startFrame, endFrame, text: id, answers: [] }) as unknown as CommentView;
const px = (frame: number): number => frame / 10;
const place = (comments: CommentView[], rows = 3) =>
  placeComments(comments, px, 1000, rows).map(({ comment, leftPx, widthPx, row }) => [comment.id, leftPx, widthPx, row]);

test('what follows lies in one row, what overlaps in the next that is free', () => {
  expect(place([said('b', 3000, 4000), said('a', 1000, 2000), said('c', 1500, 3500), said('d', 1600, 1700)])).toEqual([
    ['a', 100, 100, 0],
    ['c', 150, 200, 1],
    ['d', 160, 22, 2],
    ['b', 300, 100, 0],
  ]);
});

test('a moment can be pressed, and none is lost for want of rows', () => {
  expect(place([said('a', 0, 5000), said('b', 100), said('c', 200)], 2)).toEqual([
    ['a', 0, 500, 0],
    ['b', 10, 22, 1],
    ['c', 20, 22, 1],
  ]);
});

test('what is not in view, or of all of the session, lies nowhere; what reaches far out is held near', () => {
  expect(place([said('all', null), said('far', 20_000, 30_000), said('past', -900, -500), said('long', -90_000, 900_000)])).toEqual([
    ['long', -50, 1100, 0],
  ]);
});
