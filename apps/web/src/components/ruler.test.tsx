/** @jest-environment jsdom */
import { fireEvent, render, screen } from '@testing-library/react';
import { Ruler } from './ruler.js';

const onChange = jest.fn();
beforeEach(() => onChange.mockClear());
const show = (part: object = {}) =>
  render(
    <Ruler
      title="Cutoff"
      unit="Hz"
      value={80}
      min={20}
      max={500}
      step={1}
      scale="log"
      usual={80}
      practice={[80, 100]}
      onChange={onChange}
      {...part}
    />,
  );
const slider = () => screen.getByRole('slider', { name: 'Cutoff' });

test('says its value, range and unit to those who cannot see it', () => {
  show();
  expect(slider().getAttribute('aria-valuetext')).toBe('80 Hz');
  expect([slider().getAttribute('aria-valuemin'), slider().getAttribute('aria-valuemax')]).toEqual(['20', '500']);
});

test.each([
  ['ArrowRight', 81],
  ['ArrowDown', 79],
  ['PageUp', 90],
  ['Home', 20],
  ['End', 500],
])('%s goes to %d', (key, value) => {
  show();
  fireEvent.keyDown(slider(), { key });
  expect(onChange).toHaveBeenCalledWith(value);
});

test('on a logarithmic ruler one key press is at least one percent', () => {
  show({ value: 400 });
  fireEvent.keyDown(slider(), { key: 'ArrowRight' });
  expect(onChange).toHaveBeenCalledWith(404);
});

test('a typed number is taken with Enter, held within the range, and left with Escape', () => {
  show();
  const box = screen.getByRole('textbox', { name: 'Cutoff, typed' });
  for (const [text, key] of [
    ['120 Hz', 'Enter'],
    ['9000', 'Enter'],
    ['loud', 'Enter'],
  ] as const) {
    fireEvent.focus(box);
    fireEvent.change(box, { target: { value: text } });
    fireEvent.keyDown(box, { key });
    fireEvent.blur(box);
  }
  expect(onChange.mock.calls).toEqual([[120], [500]]);
});

test('the wheel turns a ruler only while it has the focus', () => {
  show();
  fireEvent.wheel(slider(), { deltaY: -100 });
  expect(onChange).not.toHaveBeenCalled();
  slider().focus();
  fireEvent.wheel(slider(), { deltaY: -100 });
  expect(onChange).toHaveBeenCalledWith(81);
});

test('a double click goes back to the default; a disabled ruler stays', () => {
  const { unmount } = show({ value: 200 });
  fireEvent.doubleClick(slider());
  expect(onChange).toHaveBeenCalledWith(80);
  unmount();
  onChange.mockClear();
  show({ disabled: true });
  fireEvent.keyDown(slider(), { key: 'End' });
  expect(onChange).not.toHaveBeenCalled();
});
