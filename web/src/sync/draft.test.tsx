import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import { ApiFailure } from '../api/client';
import { Draft, type Keeper } from './draft';
import { leftUnsaved } from './unsaved';

interface Kept {
  id: string;
  revision: number;
  text: string;
}

/** A server that keeps one thing, and answers when the test says so. */
class Server {
  kept: Kept = { id: 'a', revision: 1, text: 'first' };
  saves: string[] = [];
  underWay = 0;
  mostUnderWay = 0;
  /** What the next answers are instead. */
  failures: (ApiFailure | 'lost')[] = [];
  #held: (() => void)[] | null = null;

  readonly keeper: Keeper<Kept, string> = {
    id: (record) => record.id,
    name: (text) => text,
    revision: (record) => record.revision,
    content: (record) => record.text,
    path: (record) => `/api/formulas/${record.id}`,
    body: (record, text) => ({ revision: record.revision, text }),
    put: async (record, text) => {
      this.underWay += 1;
      this.mostUnderWay = Math.max(this.mostUnderWay, this.underWay);
      this.saves.push(text);
      await this.#turn();
      this.underWay -= 1;
      const failure = this.failures.shift();
      if (failure !== undefined && failure !== 'lost') throw failure;
      if (record.revision !== this.kept.revision) throw new ApiFailure(409, 'revision_conflict', 'Saved elsewhere.');
      this.kept = { ...this.kept, revision: this.kept.revision + 1, text };
      if (failure === 'lost') throw new ApiFailure(0, 'unreachable', 'No answer.');
      return this.kept;
    },
    get: () => Promise.resolve(this.kept),
  };

  /** From now on answers wait. */
  hold(): void {
    this.#held = [];
  }

  /** What waits is answered. */
  async release(): Promise<void> {
    const held = this.#held ?? [];
    this.#held = null;
    held.forEach((go) => go());
    await vi.advanceTimersByTimeAsync(0);
  }

  #turn(): Promise<void> {
    return new Promise((go) => {
      if (this.#held === null) go();
      else this.#held.push(go);
    });
  }
}

let server: Server;
let draft: Draft<Kept, string>;
let close: () => Promise<void>;

function open(): void {
  draft = new Draft({ ...server.kept }, server.keeper);
  close = draft.open();
}

const say = (text: string) => draft.edit(() => text);
const kind = () => draft.state().save.kind;
const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);
const fails = (status: number, code = 'said') => server.failures.push(new ApiFailure(status, code, `It said ${status}.`));

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Date'] });
  localStorage.clear();
  server = new Server();
  open();
});
afterEach(async () => {
  await close();
  vi.useRealTimers();
});

describe('a draft', () => {
  it('is saved when typing rests, once, with the last of it', async () => {
    'second'.split('').reduce((typed, letter) => (say(typed + letter), typed + letter), '');
    expect(kind()).toBe('waiting');
    await pass(400);
    expect([kind(), server.saves]).toEqual(['saved', ['second']]);
  });

  it('never has two saves under way, and sends what was typed meanwhile after the first', async () => {
    server.hold();
    say('one');
    await pass(400);
    say('two');
    await pass(400);
    void draft.saved().catch(() => undefined);
    say('three');
    await pass(5000);
    expect(server.saves).toEqual(['one']);
    await server.release();
    await pass(1000);
    expect([server.saves, server.mostUnderWay, kind()]).toEqual([['one', 'three'], 1, 'saved']);
    expect(server.kept).toMatchObject({ text: 'three', revision: 3 });
  });

  it('edited and saved at once sends what was edited', async () => {
    say('new');
    const record = await draft.saved();
    expect([record.text, server.kept.text]).toEqual(['new', 'new']);
  });

  it('taps on save make one save', async () => {
    say('new');
    await Promise.all([draft.saved(), draft.saved(), draft.saved()]);
    expect(server.saves).toEqual(['new']);
  });

  it('does not call it saved that was refused', async () => {
    fails(422);
    say('wrong');
    await expect(draft.saved()).rejects.toThrow('It said 422.');
    expect(kind()).toBe('refused');
    say('right');
    await pass(400);
    expect(kind()).toBe('saved');
  });

  it('is not saved by an older content either: an edit under way is waited for', async () => {
    server.hold();
    say('one');
    const saved = draft.saved();
    say('two');
    await server.release();
    expect((await saved).text).toBe('two');
  });

  it.each([0, 408, 429, 500, 503, 507])('answered with %i is tried again until it is there', async (status) => {
    fails(status);
    fails(status);
    say('new');
    await pass(400);
    expect(kind()).toBe('offline');
    await pass(7000);
    expect([kind(), server.kept.text]).toEqual(['saved', 'new']);
  });

  it.each([401, 403, 404, 410, 413, 422])('answered with %i stays on this device', async (status) => {
    fails(status);
    say('new');
    await pass(400);
    expect(kind()).toBe('refused');
    expect(leftUnsaved().map(([, one]) => one.content)).toEqual(['new']);
  });

  it('whose answer was lost is no conflict with itself', async () => {
    server.failures.push('lost');
    say('new');
    await pass(400);
    expect(kind()).toBe('offline');
    await pass(4000);
    expect([kind(), draft.state().record.revision]).toEqual(['saved', 2]);
  });

  it('changed elsewhere is a conflict, and nothing is sent until it is decided', async () => {
    server.kept = { ...server.kept, revision: 2, text: 'theirs' };
    say('mine');
    await pass(400);
    expect(kind()).toBe('conflict');
    say('mine still');
    await pass(60_000);
    expect([kind(), server.kept.text]).toEqual(['conflict', 'theirs']);
    await expect(draft.saved()).rejects.toThrow('Saved elsewhere.');
    draft.keepMine(server.kept);
    await pass(400);
    expect(server.kept.text).toBe('mine still');
  });

  it('taken over from elsewhere can be undone', async () => {
    server.kept = { ...server.kept, revision: 2, text: 'theirs' };
    say('mine');
    await pass(400);
    draft.takeTheirs(server.kept);
    expect(draft.state().history.present).toBe('theirs');
    draft.undo();
    await pass(400);
    expect(server.kept.text).toBe('mine');
  });

  it('asked about while it is edited is asked about again: nothing typed is overwritten', async () => {
    const asked: string[] = [];
    const answer = (text: string) => new Promise<string>((give) => setTimeout(() => give(text.toUpperCase()), 100));
    say('one');
    const followed = draft.follow((text) => (asked.push(text), answer(text)), (_, upper) => upper);
    await pass(50);
    say('two');
    await pass(1000);
    await followed;
    expect([asked, draft.state().history.present]).toEqual([['one', 'two'], 'TWO']);
  });

  it('left with something waiting sends it once', async () => {
    say('last');
    await close();
    await pass(5000);
    expect([server.saves, server.kept.text]).toEqual([['last'], 'last']);
  });

  it('opened again at once, while what was sent on leaving is still under way, is no conflict', async () => {
    say('last');
    const before = { ...server.kept };
    // The page is gone; its save arrives after the next page has read what is there.
    draft = new Draft(before, server.keeper);
    server.kept = { ...server.kept, revision: 2, text: 'last' };
    close = draft.open();
    await pass(400);
    expect([kind(), draft.state().record.revision, draft.state().history.past]).toEqual(['saved', 2, ['first']]);
  });

  it('is lost with the tab only when this device keeps nothing', () => {
    const full = vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new Error('full');
    });
    say('new');
    expect(draft.state().isLosable).toBe(true);
    full.mockRestore();
    say('newer');
    expect(draft.state().isLosable).toBe(false);
  });

  it('keeps its content where there is no room for the steps that led to it', () => {
    'abcdefghij'.split('').forEach((letter) => draft.edit((text) => text + letter.repeat(50)));
    const set = Storage.prototype.setItem;
    const small = vi.spyOn(Storage.prototype, 'setItem').mockImplementation(function (this: Storage, key, value) {
      if (value.length > 1500) throw new Error('full');
      set.call(this, key, value);
    });
    say('kept all the same');
    small.mockRestore();
    expect(draft.state().isLosable).toBe(false);
    expect(leftUnsaved().map(([, one]) => one.content)).toEqual(['kept all the same']);
  });

  it('of another workshop is left alone until that is served again', async () => {
    const meta = document.head.appendChild(document.createElement('meta'));
    meta.name = 'sapolin-database';
    meta.content = 'one';
    fails(409, 'another_database');
    say('of one');
    await pass(400);
    meta.content = 'two';
    expect(leftUnsaved()).toEqual([]);
    meta.content = 'one';
    expect(leftUnsaved().map(([, one]) => one.content)).toEqual(['of one']);
    meta.remove();
  });
});
