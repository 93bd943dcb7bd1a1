import { useCallback, useRef, useState, type Ref } from 'react';

interface OnPress {
  /** Whether its button was ever pressed. */
  isWanted: boolean;
  want: () => void;
  opened: boolean;
  setOpened: (opened: boolean) => void;
  /** Goes to the button of the overlay itself, which takes the place of the one that was pressed. */
  own: Ref<HTMLButtonElement>;
}

/**
 * For a menu or a word's meaning that is made when its button is first pressed. Until then there is the button alone: a closed
 * overlay costs a slow phone more than the rest of the line that it stands in.
 */
export function useOnPress(): OnPress {
  const [isWanted, setWanted] = useState(false);
  const [opened, setOpened] = useState(false);
  const isTaken = useRef(false);
  // It has the focus before it opens, so that the focus comes back to it.
  const own = useCallback((button: HTMLButtonElement | null) => {
    if (button === null || isTaken.current) return;
    isTaken.current = true;
    button.focus({ preventScroll: true });
    setOpened(true);
  }, []);
  return { isWanted, want: () => setWanted(true), opened, setOpened, own };
}
