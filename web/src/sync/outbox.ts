/** Events that the server has not acknowledged yet, kept on this device so that a closed tab loses none.
 *
 *  Each has a place of its own in the storage, so that tabs of the same record never overwrite one another's. A record is
 *  named by the batch for its make day, and by `batch~part` for what is recorded of it later. */

export interface Waiting<E = unknown> {
  key: string;
  afterSeq: number | null;
  event: E;
  /** When it was recorded here, ms; they are sent in this order. */
  at: number;
}

const prefixOf = (record: string) => `sapolin.outbox.${record}`;
const placeOf = (record: string, key: string) => `${prefixOf(record)}.${key}`;

/** What waits for the server, the oldest first. */
export function recallOutbox<E>(record: string): Waiting<E>[] {
  const prefix = `${prefixOf(record)}.`;
  const found: Waiting<E>[] = [];
  try {
    for (let i = 0; i < localStorage.length; i += 1) {
      const place = localStorage.key(i);
      if (place?.startsWith(prefix)) found.push(...read<E>(localStorage.getItem(place)));
    }
    // Earlier releases kept one list a batch.
    found.push(...read<E>(localStorage.getItem(prefixOf(record))));
  } catch {
    // Storage refused: there is nothing to recall.
  }
  return found.sort((a, b) => a.at - b.at);
}

function read<E>(text: string | null): Waiting<E>[] {
  if (text === null) return [];
  try {
    const kept: unknown = JSON.parse(text);
    const entries = (Array.isArray(kept) ? kept : [kept]) as Partial<Waiting<E>>[];
    return entries.flatMap((one) => (one.key && one.event ? [{ key: one.key, event: one.event, afterSeq: one.afterSeq ?? null, at: one.at ?? 0 }] : []));
  } catch {
    return [];
  }
}

export function keepInOutbox(record: string, entry: Waiting): void {
  try {
    localStorage.setItem(placeOf(record, entry.key), JSON.stringify(entry));
  } catch {
    // Storage full or refused: the event is still being sent, and the screen says so.
  }
}

export function forgetFromOutbox(record: string, key: string): void {
  try {
    localStorage.removeItem(placeOf(record, key));
    const rest = read(localStorage.getItem(prefixOf(record))).filter((one) => one.key !== key);
    if (rest.length === 0) localStorage.removeItem(prefixOf(record));
    else localStorage.setItem(prefixOf(record), JSON.stringify(rest));
  } catch {
    // It is sent again under the same key then, and adds nothing.
  }
}

/** The event that one waits for by now: what this screen itself added meanwhile, one after the other, is no other device's doing. */
export function followed(afterSeq: number | null, own: Map<number, number>): number | null {
  let seq = afterSeq;
  for (let next = seq === null ? undefined : own.get(seq); next !== undefined; next = own.get(next)) seq = next;
  return seq;
}
