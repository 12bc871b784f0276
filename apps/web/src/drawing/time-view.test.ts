import fc from 'fast-check';
import { TimeView } from './time-view.js';

const view = (): TimeView => {
  const made = new TimeView(480_000);
  made.resize(800);
  return made;
};

test('shows everything at first, and still does after a change of width', () => {
  const made = view();
  made.resize(1000);
  expect([made.startFrame, made.endFrame]).toEqual([0, 480_000]);
});

test('zooming keeps the frame under the pointer where it is', () => {
  fc.assert(
    fc.property(fc.double({ min: 0.3, max: 0.9, noNaN: true }), fc.integer({ min: 0, max: 800 }), (factor, px) => {
      const made = view();
      const frame = made.frameAt(px);
      made.zoom(factor, px);
      expect(made.pxAt(frame)).toBeCloseTo(px, 6);
    }),
  );
});

test('whatever is done, the view stays within the recording', () => {
  const move = fc.oneof(
    fc.tuple(fc.constant('zoom'), fc.double({ min: 0.01, max: 50, noNaN: true }), fc.integer({ min: 0, max: 800 })),
    fc.tuple(fc.constant('scroll'), fc.integer({ min: -90_000, max: 90_000 }), fc.constant(0)),
    fc.tuple(fc.constant('show'), fc.integer({ min: 0, max: 479_000 }), fc.integer({ min: 1, max: 1000 })),
  );
  fc.assert(
    fc.property(fc.array(move, { maxLength: 20 }), (moves) => {
      const made = view();
      for (const [kind, a, b] of moves) {
        if (kind === 'zoom') made.zoom(a, b);
        else if (kind === 'scroll') made.scroll(a);
        else made.show(a, a + b);
        expect(made.startFrame).toBeGreaterThanOrEqual(0);
        expect(made.endFrame).toBeLessThanOrEqual(480_000.001);
        expect(made.spanFrames).toBeGreaterThanOrEqual(63.9);
      }
    }),
  );
});

test('follows a playhead by pages, and only when it has left', () => {
  const made = view();
  made.show(0, 48_000);
  const { startFrame, endFrame } = made;
  made.follow(endFrame - 10, endFrame - 20);
  expect(made.startFrame).toBe(startFrame);
  made.follow(endFrame + 10, endFrame - 10);
  expect(made.startFrame).toBeGreaterThan(endFrame * 0.9);
});

test('does not pull back who has scrolled away from the playhead', () => {
  const made = view();
  made.show(200_000, 248_000);
  const { startFrame } = made;
  made.follow(10_010, 10_000);
  expect(made.startFrame).toBe(startFrame);
});
