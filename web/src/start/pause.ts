/** Give way to a touch, a key, or a painting that waits. */
export const pause = () => new Promise<void>((resolve) => setTimeout(resolve));
