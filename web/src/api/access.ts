import { useSyncExternalStore } from 'react';

/** Whether this device's access to the workshop has ended: a paired device's key is no longer taken. */
let isEnded = false;
const watching = new Set<() => void>();

/** The server knows this device no more. */
export function noteAccessEnded(): void {
  if (isEnded) return;
  isEnded = true;
  watching.forEach((tell) => tell());
}

export function useAccessEnded(): boolean {
  return useSyncExternalStore(
    (tell) => {
      watching.add(tell);
      return () => watching.delete(tell);
    },
    () => isEnded,
  );
}
