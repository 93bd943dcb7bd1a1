import { useRef } from 'react';
import { useMove } from 'react-aria';

interface Slide {
  isDisabled?: boolean;
  /** A drag begins. */
  onStart?: () => void;
  /** How far the pointer is from where it took the handle, px. */
  onDrag: (x: number, y: number) => void;
  /** An arrow key: +1 is right or down; with Shift the larger step. */
  onStep: (x: number, y: number, isLarge: boolean) => void;
  /** A drag is over. */
  onEnd?: () => void;
}

/** Props of a handle that is dragged by mouse, pen or finger, or moved with the arrow keys. */
export function useSlide({ isDisabled = false, onStart, onDrag, onStep, onEnd }: Slide) {
  const moved = useRef({ x: 0, y: 0 });
  const { moveProps } = useMove({
    onMoveStart({ pointerType }) {
      if (pointerType === 'keyboard') return;
      moved.current = { x: 0, y: 0 };
      onStart?.();
    },
    onMove({ pointerType, deltaX, deltaY, shiftKey }) {
      if (pointerType === 'keyboard') {
        onStep(deltaX, deltaY, shiftKey);
        return;
      }
      moved.current = { x: moved.current.x + deltaX, y: moved.current.y + deltaY };
      onDrag(moved.current.x, moved.current.y);
    },
    onMoveEnd({ pointerType }) {
      if (pointerType !== 'keyboard') onEnd?.();
    },
  });
  return isDisabled ? {} : moveProps;
}
