/** Events that the server has not acknowledged yet, kept on this device so that a closed tab loses none. */
import type { NewEvent } from '../api/types';

export interface Waiting {
  key: string;
  afterSeq: number | null;
  event: NewEvent['event'];
}

const keyOf = (batchId: string) => `sapolin.outbox.${batchId}`;

export function recallOutbox(batchId: string): Waiting[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(keyOf(batchId)) ?? '[]');
    return Array.isArray(kept) ? (kept as Waiting[]) : [];
  } catch {
    return [];
  }
}

export function keepOutbox(batchId: string, waiting: Waiting[]): Waiting[] {
  try {
    if (waiting.length === 0) localStorage.removeItem(keyOf(batchId));
    else localStorage.setItem(keyOf(batchId), JSON.stringify(waiting));
  } catch {
    // Storage full or refused: the event is still being sent, and the screen says so.
  }
  return waiting;
}

/** The event that one waits for by now: what this screen itself added meanwhile, one after the other, is no other device's doing. */
export function followed(afterSeq: number | null, own: Map<number, number>): number | null {
  let seq = afterSeq;
  for (let next = seq === null ? undefined : own.get(seq); next !== undefined; next = own.get(next)) seq = next;
  return seq;
}
