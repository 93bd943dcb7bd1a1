/** Tabs of one browser tell one another what they saved, so that a second tab shows it at once and a conflict is left to what
 *  two people really did to the same thing at the same time. */
const NAME = 'sapolin.saved';

interface Saved {
  path: string;
  record: unknown;
}

const canTell = () => typeof BroadcastChannel !== 'undefined';
let channel: BroadcastChannel | null = null;

/** Tell the other tabs what is saved now at `path`. */
export function announce(path: string, record: unknown): void {
  if (!canTell()) return;
  channel ??= new BroadcastChannel(NAME);
  channel.postMessage({ path, record } satisfies Saved);
}

/** Hear what other tabs saved at `path`, until the returned function is called. */
export function follow(path: string, hear: (record: unknown) => void): () => void {
  if (!canTell()) return () => undefined;
  const listening = new BroadcastChannel(NAME);
  listening.onmessage = (message: MessageEvent<Saved>) => {
    if (message.data.path === path) hear(message.data.record);
  };
  return () => listening.close();
}
