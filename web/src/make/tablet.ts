/** What a tablet on the table does for make day: it stays awake, fills its screen, and is heard. */
import { useFullscreenDocument, useLocalStorage } from '@mantine/hooks';
import { useEffect } from 'react';

/** Old browsers cannot, nor can any where the page came without TLS from another machine. */
export const CAN_STAY_AWAKE = 'wakeLock' in navigator;

/** Keep the screen on while `isWanted`; a browser that cannot leaves it to the device. */
export function useAwake(isWanted: boolean): void {
  useEffect(() => {
    if (!isWanted || !CAN_STAY_AWAKE) return undefined;
    let lock: WakeLockSentinel | null = null;
    let isOver = false;
    const ask = () => {
      if (document.hidden || isOver) return;
      navigator.wakeLock.request('screen').then(
        (held) => {
          if (isOver) void held.release();
          else lock = held;
        },
        () => undefined, // Refused, for example when the battery is low.
      );
    };
    ask();
    // The lock is lost whenever the page is hidden.
    document.addEventListener('visibilitychange', ask);
    return () => {
      isOver = true;
      document.removeEventListener('visibilitychange', ask);
      void lock?.release();
    };
  }, [isWanted]);
}

export const useFullScreen = useFullscreenDocument;

/** Chimes and vibration, and whether a right and steady weight is taken by itself. */
export function useTabletSettings() {
  const [sounds, setSounds] = useLocalStorage({ key: 'sapolin.make-sounds', defaultValue: true, getInitialValueInEffect: false });
  const [takesItself, setTakesItself] = useLocalStorage({ key: 'sapolin.make-takes-itself', defaultValue: true, getInitialValueInEffect: false });
  return { sounds, setSounds, takesItself, setTakesItself };
}
