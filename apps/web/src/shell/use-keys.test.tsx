/** @jest-environment jsdom */
import { fireEvent, render, screen } from '@testing-library/react';
import { releaseFocusAfterClicks, useKeys } from './use-keys.js';

const acts = { play: jest.fn(), lane: jest.fn(), undo: jest.fn(), redo: jest.fn(), help: jest.fn(), closer: jest.fn() };
beforeEach(() => Object.values(acts).forEach((act) => act.mockClear()));

function Keys({ dialog = false }: { readonly dialog?: boolean }) {
  useKeys('space', acts.play, { byCode: true, preventDefault: true });
  useKeys('1 2 3', acts.lane);
  useKeys('mod_z', acts.undo);
  useKeys('mod_shift_z mod_y', acts.redo);
  useKeys('shift_? ?', acts.help);
  useKeys('+ shift_+ =', acts.closer);
  return (
    <>
      <button type="button">Reset</button>
      <div role="slider" tabIndex={0} aria-label="Cutoff" aria-valuenow={1} />
      <input aria-label="Name" />
      <input type="checkbox" aria-label="Choose" />
      {dialog && <div role="dialog" />}
    </>
  );
}
const press = (target: Element, key: string, code = key, modifiers: object = {}) => fireEvent.keyDown(target, { key, code, ...modifiers });

test('keys act wherever nothing else takes them, also while a ruler has the focus', () => {
  render(<Keys />);
  for (const target of [document.body, screen.getByRole('slider')]) press(target, ' ', 'Space');
  expect(acts.play).toHaveBeenCalledTimes(2);
  press(screen.getByRole('slider'), '2', 'Digit2');
  expect(acts.lane).toHaveBeenCalledTimes(1);
});

test('typed text is text, and Space on a button that the keyboard is on is the button’s', () => {
  render(<Keys />);
  press(screen.getByRole('textbox'), ' ', 'Space');
  press(screen.getByRole('textbox'), '1', 'Digit1');
  press(screen.getByRole('button'), ' ', 'Space');
  expect(acts.play).not.toHaveBeenCalled();
  expect(acts.lane).not.toHaveBeenCalled();
  press(screen.getByRole('button'), '1', 'Digit1');
  expect(acts.lane).toHaveBeenCalledTimes(1);
});

test('a box that was ticked takes Space, and nothing else', () => {
  render(<Keys />);
  press(screen.getByRole('checkbox'), '1', 'Digit1');
  press(screen.getByRole('checkbox'), ' ', 'Space');
  expect([acts.lane, acts.play].map((act) => act.mock.calls.length)).toEqual([1, 0]);
});

test('nothing acts behind an open dialog', () => {
  render(<Keys dialog />);
  press(document.body, ' ', 'Space');
  press(document.body, 'z', 'KeyZ', { ctrlKey: true });
  expect(acts.play).not.toHaveBeenCalled();
  expect(acts.undo).not.toHaveBeenCalled();
});

test('undo and redo are told apart by Shift, and signs count, not the keys that make them', () => {
  render(<Keys />);
  press(document.body, 'z', 'KeyZ', { ctrlKey: true });
  press(document.body, 'Z', 'KeyZ', { ctrlKey: true, shiftKey: true });
  // A German keyboard has z where others have y.
  press(document.body, 'z', 'KeyY', { ctrlKey: true });
  expect([acts.undo, acts.redo].map((act) => act.mock.calls.length)).toEqual([2, 1]);
  press(document.body, '?', 'Slash', { shiftKey: true });
  expect(acts.help).toHaveBeenCalledTimes(1);
  press(document.body, '+', 'Equal', { shiftKey: true });
  press(document.body, '=', 'Equal');
  expect(acts.closer).toHaveBeenCalledTimes(2);
});

test('a button that was clicked with the pointer lets go of the focus; one pressed by keyboard keeps it', () => {
  releaseFocusAfterClicks();
  render(<Keys />);
  const button = screen.getByRole('button');
  button.focus();
  fireEvent.click(button, { detail: 0 });
  expect(document.activeElement).toBe(button);
  fireEvent.click(button, { detail: 1 });
  expect(document.activeElement).toBe(document.body);
});
