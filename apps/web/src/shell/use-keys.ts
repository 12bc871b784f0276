import { useHotkeys } from 'react-hotkeys-hook';

/** Elements that use a key themselves, when the keyboard has put the focus on them. */
const OWN_SPACE = 'button, a, [role=switch], [role=radio], [role=menuitem], [type=checkbox]';
/** Where a key is a letter, or a step; a box that is ticked takes Space alone. */
const OWN_KEYS = 'input:not([type=checkbox])';

interface KeyOptions {
  /** By the place of the key instead of the sign that it makes. */
  readonly byCode?: boolean;
  readonly preventDefault?: boolean;
  /** Belongs to the dialog that is open. */
  readonly inDialog?: boolean;
}

/**
 * Keys that work wherever the focus is, except while text is typed or a dialog or menu is open. Several keys are
 * separated by spaces, modifiers joined by "_": "mod_shift_z mod_y".
 */
export function useKeys(
  keys: string,
  act: (event: KeyboardEvent) => void,
  { byCode = false, preventDefault = false, inDialog = false }: KeyOptions = {},
): void {
  useHotkeys(keys, act, {
    useKey: !byCode,
    delimiter: ' ',
    splitKey: '_',
    // By itself ">" would part keys that follow each other.
    sequenceSplitKey: '→',
    preventDefault,
    enableOnFormTags: ['slider', 'radio', 'input'],
    ignoreEventWhen: (event) =>
      (event.target as HTMLElement).matches?.(OWN_KEYS) ||
      document.querySelector(inDialog ? '[role=menu]' : '[role=dialog], [role=menu]') !== null ||
      (event.key === ' ' && (event.target as HTMLElement).closest(OWN_SPACE) !== null),
  });
}

/** A button that was clicked lets go of the focus, so that Space goes on to play; the keyboard keeps it. */
export function releaseFocusAfterClicks(): void {
  const release = ({ detail, target }: MouseEvent): void => {
    const focused = document.activeElement;
    if (detail > 0 && focused instanceof HTMLElement && focused.matches(OWN_SPACE) && focused.contains(target as Node)) focused.blur();
  };
  // Before anybody else hears of the click: afterwards its target may have been drawn anew.
  document.addEventListener('click', release, true);
}
