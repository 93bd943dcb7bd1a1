/** Something being worked on: edits with undo, and an autosave whose state is always known.
 *
 *  One save is under way at a time. What a save found changed elsewhere is looked at before it is called a conflict: an earlier
 *  save of one's own, whose answer was lost, is none. It lives outside of the screens, so that what is edited and what is sent are
 *  never of different moments. */
import { ApiFailure } from '../api/client';
import { fateOf } from '../api/fate';
import type { Text } from '../api/types';
import { keepHistory, recallHistory, record as recorded, redo, startHistory, undo, type History, type Unread } from './history';
import { announce, follow } from './tabs';
import { forgetUnsaved, isSame, keepUnsaved, recallUnsaved, type Unsaved } from './unsaved';

const QUIET_MS = 350;
const RETRY_MS = 3000;
const ALIVE_MS = 5000;

/** saved: on disk. waiting: typed, about to be sent. saving: sent. offline: not answered, tried again.
 *  conflict: saved elsewhere since. refused: the server will not keep it; `message` says why. */
export type SaveState =
  { kind: 'saved' | 'waiting' | 'saving' | 'offline' | 'conflict' } | { kind: 'refused'; message: Text | string };

/** Where something edited is kept, and how. */
export interface Keeper<R, T> {
  id: (record: R) => string;
  name: (content: T) => string;
  revision: (record: R) => number;
  content: (record: R) => T;
  /** Address of a save, and of the record as it is. */
  path: (record: R) => string;
  body: (record: R, content: T) => unknown;
  put: (record: R, content: T) => Promise<R>;
  get: (record: R) => Promise<R>;
}

export interface DraftState<R, T> {
  record: R;
  history: History<T>;
  unread: Unread;
  save: SaveState;
  /** It is neither on the server nor on this device: leaving would lose it. */
  isLosable: boolean;
}

export class Draft<R, T> {
  #state: DraftState<R, T>;
  readonly #keeper: Keeper<R, T>;
  readonly #left: [place: string, unsaved: Unsaved] | null;
  readonly #path: string;
  readonly #watching = new Set<() => void>();
  /** The save under way; resolves when it is over, however it ended. */
  #sending: Promise<void> | null = null;
  #failure: unknown = null;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #alive: ReturnType<typeof setInterval> | undefined;
  #isOpen = false;
  #isRecalled: boolean;

  constructor(loaded: R, keeper: Keeper<R, T>) {
    this.#keeper = keeper;
    this.#path = keeper.path(loaded);
    this.#left = recallUnsaved(this.#path);
    this.#isRecalled = this.#left !== null;
    this.#state = opened(loaded, keeper, this.#left?.[1]);
  }

  readonly state = (): DraftState<R, T> => this.#state;

  readonly watch = (tell: () => void): (() => void) => {
    this.#watching.add(tell);
    return () => this.#watching.delete(tell);
  };

  /** It is on screen from now on, until the returned function is called; what waits then is sent once more, at once. */
  open(): () => Promise<void> {
    this.#isOpen = true;
    const unfollow = follow(this.#path, (theirs) => this.#hear(theirs as R));
    // Another tab must not take it for left behind.
    this.#alive = setInterval(() => this.#keep(), ALIVE_MS);
    this.#keep();
    this.#schedule();
    void this.#recall();
    return async () => {
      this.#isOpen = false;
      unfollow();
      clearInterval(this.#alive);
      clearTimeout(this.#timer);
      if (this.#sending !== null) await this.#sending;
      if (!this.#isOpen && this.#state.save.kind === 'waiting') await this.#send();
    };
  }

  edit(change: (content: T) => T, mergeKey: string | null = null): void {
    this.#move(recorded(this.#state.history, change(this.#state.history.present), mergeKey));
  }

  /** Put an answer of the server in the place of what it was asked about. Where that was edited while the answer was under way
   *  the answer is about something that is no longer there: it is asked again. Throws what the question throws. */
  async follow<A>(question: (content: T) => Promise<A>, put: (content: T, answer: A) => T): Promise<A> {
    for (;;) {
      const about = this.#state.history.present;
      const answer = await question(about);
      if (this.#state.history.present !== about) continue;
      this.edit((content) => put(content, answer));
      return answer;
    }
  }

  undo(): void {
    this.#move(undo(this.#state.history), {});
  }

  redo(): void {
    this.#move(redo(this.#state.history), {});
  }

  closeStep(): void {
    this.#set({ history: { ...this.#state.history, mergeKey: null } });
  }

  setUnread(path: string, text: string | null): void {
    const others = Object.entries(this.#state.unread).filter(([one]) => one !== path);
    this.#set({ unread: Object.fromEntries(text === null ? others : [...others, [path, text]]) });
    this.#keep();
  }

  /** Change what is known of the record beside its content. */
  amend(change: (record: R) => R): void {
    this.#set({ record: change(this.#state.record) });
  }

  takeTheirs(theirs: R): void {
    const history = recorded(this.#state.history, this.#keeper.content(theirs), null);
    this.#set({ record: theirs, unread: {}, history, save: { kind: 'saved' } });
    this.#keep();
  }

  keepMine(theirs: R): void {
    this.#set({ record: theirs, save: { kind: 'waiting' } });
    this.#keep();
    this.#schedule();
  }

  /** The record once what is on screen now is on the server's disk. Throws why it is not. */
  async saved(): Promise<R> {
    for (;;) {
      if (this.#sending !== null) await this.#sending;
      const { save, record } = this.#state;
      if (save.kind === 'saved' && this.#keeper.revision(record) > 0) return record;
      if (save.kind === 'conflict') throw this.#failure;
      await this.#send();
      // Edited meanwhile, it is not what was sent.
      const now = this.#state.save.kind;
      if (now !== 'saved' && now !== 'waiting') throw this.#failure;
    }
  }

  /** The page is left: what waits is sent without waiting for the answer. Should it fail, what is kept on this device is sent
   *  when it is opened again. */
  leave(): void {
    const { save, record, history, unread } = this.#state;
    if (save.kind !== 'waiting' || this.#sending !== null) return;
    fetch(this.#path, {
      method: 'PUT',
      keepalive: true,
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(this.#keeper.body(record, history.present)),
    }).then(
      async (answer) => {
        if (!answer.ok) return;
        // It is saved, and can still be undone when it is opened again.
        const saved = (await answer.json()) as R;
        announce(this.#path, saved);
        await keepHistory(this.#keeper.id(record), this.#keeper.revision(saved), history, unread);
        forgetUnsaved(this.#path);
      },
      () => undefined,
    );
  }

  #set(part: Partial<DraftState<R, T>>): void {
    this.#state = { ...this.#state, ...part };
    this.#watching.forEach((tell) => tell());
  }

  #move(history: History<T>, unread = this.#state.unread): void {
    if (history === this.#state.history) {
      if (unread !== this.#state.unread) this.#set({ unread });
      return;
    }
    const { save } = this.#state;
    // While a save is under way the mark says so; what it did not carry is sent when it is over.
    const next: SaveState = save.kind === 'conflict' || save.kind === 'saving' ? save : { kind: 'waiting' };
    this.#set({ history, unread, save: next });
    this.#keep();
    this.#schedule();
  }

  #schedule(): void {
    clearTimeout(this.#timer);
    const { kind } = this.#state.save;
    if (!this.#isOpen || (kind !== 'waiting' && kind !== 'offline')) return;
    this.#timer = setTimeout(() => void this.#send(), kind === 'waiting' ? QUIET_MS : RETRY_MS);
  }

  /** Send what is there now; only ever one at a time. */
  #send(): Promise<void> {
    this.#sending ??= this.#sendOnce().finally(() => {
      this.#sending = null;
      this.#keep();
      this.#schedule();
    });
    return this.#sending;
  }

  async #sendOnce(): Promise<void> {
    clearTimeout(this.#timer);
    const base = this.#state.record;
    const content = this.#state.history.present;
    this.#set({ save: { kind: 'saving' } });
    try {
      this.#kept(await this.#keeper.put(base, content), content);
    } catch (failure) {
      this.#failure = failure;
      const fate = fateOf(failure);
      if (fate === 'elsewhere') await this.#meet(base, content);
      else if (fate === 'again') this.#set({ save: { kind: 'offline' } });
      // What was changed meanwhile may be what was wrong with it.
      else this.#set({ save: content === this.#state.history.present ? refused(failure) : { kind: 'waiting' } });
    }
  }

  /** It was saved since: by oneself, when what is there says the same; or by someone else. */
  async #meet(base: R, content: T): Promise<void> {
    try {
      const theirs = await this.#keeper.get(base);
      if (isSame(this.#keeper.content(theirs), content)) this.#kept(theirs, content);
      else this.#set({ save: { kind: 'conflict' } });
    } catch (failure) {
      this.#set({ save: fateOf(failure) === 'again' ? { kind: 'offline' } : { kind: 'conflict' } });
    }
  }

  #kept(record: R, content: T): void {
    this.#set({ record, save: { kind: content === this.#state.history.present ? 'saved' : 'waiting' } });
    announce(this.#path, record);
  }

  /** What is not saved is kept on this device from the moment it is made; of what is saved, the steps that led there. */
  #keep(): void {
    const { record, history, unread, save } = this.#state;
    if (save.kind === 'saved') {
      if (this.#state.isLosable) this.#set({ isLosable: false });
      if (!this.#isRecalled) return;
      // Until its steps are kept, what is kept as unsaved holds them; it is found to be the same as what is saved.
      void keepHistory(this.#keeper.id(record), this.#keeper.revision(record), history, unread).then(() => {
        if (this.#state.save.kind === 'saved' && this.#state.record === record) forgetUnsaved(this.#path, this.#left?.[0]);
      });
      return;
    }
    const { past, present, future } = history;
    const isKept = keepUnsaved({
      path: this.#path, name: this.#keeper.name(present), revision: this.#keeper.revision(record), content: present, past, future, unread,
      at: Date.now(),
    });
    if (this.#state.isLosable === isKept) this.#set({ isLosable: !isKept });
  }

  /** The steps of before, unless what was left unsaved brought its own. What was done while they were read comes after them. */
  async #recall(): Promise<void> {
    if (this.#isRecalled) return;
    const { record } = this.#state;
    const before = await recallHistory<T>(this.#keeper.id(record), this.#keeper.revision(record));
    if (this.#isRecalled || !this.#isOpen) return;
    this.#isRecalled = true;
    const { history, unread } = this.#state;
    if (before !== null) {
      const isUntouched = history.past.length === 0;
      this.#set({
        unread: { ...before.unread, ...unread },
        history: { ...history, past: [...before.past, ...history.past], future: isUntouched ? before.future : history.future },
      });
    }
    this.#keep();
  }

  /** Another tab saved it: shown at once where nothing is in hand here. */
  #hear(theirs: R): void {
    const { save, unread, record } = this.#state;
    if (save.kind !== 'saved' || Object.keys(unread).length > 0) return;
    if (this.#keeper.revision(theirs) > this.#keeper.revision(record)) this.takeTheirs(theirs);
  }
}

/** A record as it is opened: with what was left unsaved of it, if anything was. */
function opened<R, T>(record: R, keeper: Keeper<R, T>, left: Unsaved | undefined): DraftState<R, T> {
  const content = keeper.content(record);
  if (left === undefined) {
    return { record, history: startHistory(content), unread: {}, save: { kind: 'saved' }, isLosable: false };
  }
  const isKept = isSame(left.content, content);
  const present = isKept ? content : (left.content as T);
  const history: History<T> = { past: left.past as T[], present, future: left.future as T[], mergeKey: null };
  // It reached the server although its answer did not come back; or it goes there now; or someone else was there meanwhile.
  const kind = isKept ? 'saved' : left.revision === keeper.revision(record) ? 'waiting' : 'conflict';
  return { record, history, unread: left.unread, save: { kind }, isLosable: false };
}

function refused(failure: unknown): SaveState {
  if (!(failure instanceof ApiFailure)) return { kind: 'refused', message: String(failure) };
  return { kind: 'refused', message: failure.problems[0]?.message ?? failure.message };
}
