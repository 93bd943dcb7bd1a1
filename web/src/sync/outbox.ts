/** Events that the server has not acknowledged yet, kept on this device so that a closed tab loses none.
 *
 *  Each has a place of its own in the storage, so that tabs of the same record never overwrite one another's. A record is
 *  named by the batch for its make day, and by `batch~part` for what is recorded of it later. */

import { ApiFailure } from '../api/client';
import { fateOf } from '../api/fate';
import { newKey } from '../api/newKey';
import { thisDatabase } from '../api/thisDatabase';
import { belongsHere } from './unsaved';

export interface Waiting<E = unknown> {
  key: string;
  afterSeq: number | null;
  event: E;
  /** When it was recorded here, ms; they are sent in this order. */
  at: number;
  /** The database that it belongs to; left out by earlier releases. */
  database?: string;
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
    return entries.flatMap(({ key, event, afterSeq = null, at = 0, database = '' }) => (key && event && belongsHere(database) ? [{ key, event, afterSeq, at }] : []));
  } catch {
    return [];
  }
}

export function keepInOutbox(record: string, entry: Waiting): void {
  try {
    localStorage.setItem(placeOf(record, entry.key), JSON.stringify({ ...entry, database: thisDatabase() }));
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

const RETRY_MS = 1500;
/** An event on which the server fails this often is put behind the others, and kept here. */
const MOST_FAULTS = 4;

/** isKept: it stays on this device; else the server refused it for good. */
export type Delivered<A> = { answer: A } | { failure: Error; isKept: boolean };

export interface OutboxState {
  /** Events that the server has not acknowledged, and that are still being sent. */
  waiting: number;
  isOffline: boolean;
}

interface Sending<E, A> {
  entry: Waiting<E>;
  /** Tell whoever added it, or whoever is told of what a closed tab left behind. */
  tell: (delivered: Delivered<A>) => void;
  faults: number;
}

/** Adds events to one record on the server, one after the other. Each is kept on this device until the server has it on disk, so
 *  that nothing is lost, and sent again under the same key if no answer came, so that nothing is added twice. */
export class Outbox<E, A> {
  readonly #record: string;
  readonly #watching = new Set<() => void>();
  #queue: Sending<E, A>[] = [];
  #state: OutboxState = { waiting: 0, isOffline: false };
  #isSending = false;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #post: (entry: Waiting<E>) => Promise<A>;

  constructor(record: string, post: (entry: Waiting<E>) => Promise<A>) {
    this.#record = record;
    this.#post = post;
  }

  readonly state = (): OutboxState => this.#state;

  readonly watch = (tell: () => void): (() => void) => {
    this.#watching.add(tell);
    return () => this.#watching.delete(tell);
  };

  /** How events are sent from now on. */
  via(post: (entry: Waiting<E>) => Promise<A>): void {
    this.#post = post;
  }

  /** What a closed tab left behind goes first; what is under way here already is not sent twice. */
  recall(tell: (entry: Waiting<E>, delivered: Delivered<A>) => void): void {
    const known = new Set(this.#queue.map((one) => one.entry.key));
    const left = recallOutbox<E>(this.#record).filter((entry) => !known.has(entry.key));
    this.#queue = [...left.map((entry) => ({ entry, tell: (delivered: Delivered<A>) => tell(entry, delivered), faults: 0 })), ...this.#queue];
    this.#go();
  }

  add(event: E, afterSeq: number | null = null): Promise<Delivered<A>> {
    const entry: Waiting<E> = { key: newKey(), afterSeq, event, at: Date.now() };
    keepInOutbox(this.#record, entry);
    return new Promise((tell) => {
      this.#queue.push({ entry, tell, faults: 0 });
      this.#go();
    });
  }

  #set(part: Partial<OutboxState>): void {
    this.#state = { waiting: this.#queue.length, isOffline: this.#state.isOffline, ...part };
    this.#watching.forEach((tell) => tell());
  }

  #go(): void {
    this.#set({});
    if (this.#isSending) return;
    clearTimeout(this.#timer);
    const [first] = this.#queue;
    if (first === undefined) return;
    this.#isSending = true;
    void this.#send(first).finally(() => {
      this.#isSending = false;
      if (this.#state.isOffline) this.#timer = setTimeout(() => this.#go(), RETRY_MS);
      else this.#go();
    });
  }

  async #send(one: Sending<E, A>): Promise<void> {
    try {
      const answer = await this.#post(one.entry);
      this.#over(one, { answer }, false);
    } catch (thrown) {
      const failure = thrown as Error;
      const fate = fateOf(failure);
      if (fate === 'again') {
        if (isFault(failure)) one.faults += 1;
        if (one.faults < MOST_FAULTS) this.#set({ isOffline: true });
        // The server fails on this very event: it is not waited for any longer.
        else this.#over(one, { failure, isKept: true }, false);
      } else this.#over(one, { failure, isKept: fate === 'kept' }, false);
    }
  }

  #over(one: Sending<E, A>, delivered: Delivered<A>, isOffline: boolean): void {
    this.#queue = this.#queue.filter((other) => other !== one);
    if (!('isKept' in delivered) || !delivered.isKept) forgetFromOutbox(this.#record, one.entry.key);
    this.#set({ isOffline });
    one.tell(delivered);
  }
}

function isFault(failure: unknown): boolean {
  return failure instanceof ApiFailure && failure.status >= 500 && failure.code !== 'disk_full';
}
