/** Events that the server has not acknowledged yet, kept on this device so that a closed tab loses none.
 *
 *  Each has a place of its own in the storage, so that tabs of the same batch never overwrite one another's. */
import type { NewEvent } from '../api/types';

export interface Waiting {
  key: string;
  afterSeq: number | null;
  event: NewEvent['event'];
  /** When it was recorded here, ms; they are sent in this order. */
  at: number;
}

const prefixOf = (batchId: string) => `sapolin.outbox.${batchId}`;
const placeOf = (batchId: string, key: string) => `${prefixOf(batchId)}.${key}`;

/** What waits for the server, the oldest first. */
export function recallOutbox(batchId: string): Waiting[] {
  const prefix = `${prefixOf(batchId)}.`;
  const found: Waiting[] = [];
  try {
    for (let i = 0; i < localStorage.length; i += 1) {
      const place = localStorage.key(i);
      if (place?.startsWith(prefix)) found.push(...read(localStorage.getItem(place)));
    }
    // Earlier releases kept one list a batch.
    found.push(...read(localStorage.getItem(prefixOf(batchId))));
  } catch {
    // Storage refused: there is nothing to recall.
  }
  return found.sort((a, b) => a.at - b.at);
}

function read(text: string | null): Waiting[] {
  if (text === null) return [];
  try {
    const kept: unknown = JSON.parse(text);
    const entries = (Array.isArray(kept) ? kept : [kept]) as Partial<Waiting>[];
    return entries.flatMap((one) => (one.key && one.event ? [{ key: one.key, event: one.event, afterSeq: one.afterSeq ?? null, at: one.at ?? 0 }] : []));
  } catch {
    return [];
  }
}

export function keepInOutbox(batchId: string, entry: Waiting): void {
  try {
    localStorage.setItem(placeOf(batchId, entry.key), JSON.stringify(entry));
  } catch {
    // Storage full or refused: the event is still being sent, and the screen says so.
  }
}

export function forgetFromOutbox(batchId: string, key: string): void {
  try {
    localStorage.removeItem(placeOf(batchId, key));
    const rest = read(localStorage.getItem(prefixOf(batchId))).filter((one) => one.key !== key);
    if (rest.length === 0) localStorage.removeItem(prefixOf(batchId));
    else localStorage.setItem(prefixOf(batchId), JSON.stringify(rest));
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
