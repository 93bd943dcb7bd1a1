import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import { ApiFailure } from '../api/client';
import { followed, forgetFromOutbox, keepInOutbox, Outbox, recallOutbox, type Delivered, type Waiting } from './outbox';

const burst = (key: string, at = 1): Waiting => ({ key, afterSeq: 3, event: { kind: 'burst' }, at });


describe('the outbox', () => {
  it('keeps what is waiting for its own batch and nothing else', () => {
    keepInOutbox('one', burst('a'));
    expect(recallOutbox('one')).toEqual([burst('a')]);
    expect(recallOutbox('other')).toEqual([]);
    forgetFromOutbox('one', 'a');
    expect(recallOutbox('one')).toEqual([]);
  });

  it('keeps what two tabs put there, in the order of their times', () => {
    keepInOutbox('one', burst('of this tab', 2));
    keepInOutbox('one', burst('of the other', 1));
    expect(recallOutbox('one').map((one) => one.key)).toEqual(['of the other', 'of this tab']);
    forgetFromOutbox('one', 'of this tab');
    expect(recallOutbox('one').map((one) => one.key)).toEqual(['of the other']);
  });

  it('passes over what cannot be read, and takes along what an earlier release kept', () => {
    localStorage.setItem('sapolin.outbox.one.b', '{not json');
    localStorage.setItem('sapolin.outbox.one', JSON.stringify([{ key: 'old', afterSeq: null, event: { kind: 'burst' } }]));
    expect(recallOutbox('one').map((one) => one.key)).toEqual(['old']);
    forgetFromOutbox('one', 'old');
    expect(recallOutbox('one')).toEqual([]);
  });
});

describe('followed', () => {
  it('goes along with what this screen added itself', () => {
    const own = new Map([
      [3, 4],
      [4, 5],
    ]);
    expect(followed(3, own)).toBe(5);
    expect(followed(7, own)).toBe(7);
    expect(followed(null, own)).toBeNull();
  });
});

describe('sending', () => {
  /** What arrived, and what is answered instead of taking it. */
  let arrived: string[];
  let failures: ApiFailure[];
  let underWay: number;
  let mostUnderWay: number;
  let box: Outbox<string, string>;

  const post = async (entry: Waiting<string>) => {
    underWay += 1;
    mostUnderWay = Math.max(mostUnderWay, underWay);
    await new Promise((go) => setTimeout(go, 10));
    underWay -= 1;
    const failure = failures.shift();
    if (failure !== undefined) throw failure;
    arrived.push(entry.event);
    return `took ${entry.event}`;
  };
  const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);
  const fails = (status: number, code = 'said') => failures.push(new ApiFailure(status, code, `It said ${status}.`));
  const kept = () => recallOutbox<string>('one').map((entry) => entry.event);

  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'Date'] });
    [arrived, failures, underWay, mostUnderWay] = [[], [], 0, 0];
    box = new Outbox('one', post);
  });
  afterEach(() => vi.useRealTimers());

  it('goes one after the other, in order', async () => {
    const told = ['a', 'b', 'c'].map((event) => box.add(event));
    await pass(100);
    expect(await Promise.all(told)).toEqual([{ answer: 'took a' }, { answer: 'took b' }, { answer: 'took c' }]);
    expect([arrived, mostUnderWay, kept(), box.state()]).toEqual([['a', 'b', 'c'], 1, [], { waiting: 0, isOffline: false }]);
  });

  it.each([0, 408, 429, 503])('waits after %i, keeps the order, and says that nothing answers', async (status) => {
    fails(status);
    void box.add('a');
    void box.add('b');
    await pass(50);
    expect([arrived, box.state(), kept()]).toEqual([[], { waiting: 2, isOffline: true }, ['a', 'b']]);
    await pass(2000);
    expect([arrived, box.state()]).toEqual([['a', 'b'], { waiting: 0, isOffline: false }]);
  });

  it.each([401, 403, 404])('keeps on this device what is answered with %i', async (status) => {
    fails(status);
    const told = box.add('a');
    await pass(50);
    expect(await told).toMatchObject({ isKept: true });
    expect(kept()).toEqual(['a']);
  });

  it.each([409, 413, 422])('gives up what is refused with %i, and tells it', async (status) => {
    fails(status);
    const told = box.add('a');
    await pass(50);
    expect(await told).toMatchObject({ isKept: false, failure: { message: `It said ${status}.` } });
    expect(kept()).toEqual([]);
  });

  it('puts what the server fails on behind the others, and keeps it', async () => {
    for (let i = 0; i < 4; i += 1) fails(500);
    const told = box.add('a');
    void box.add('b');
    await pass(10_000);
    expect(await told).toMatchObject({ isKept: true });
    expect([arrived, kept()]).toEqual([['b'], ['a']]);
  });

  it('sends what a closed tab left behind first, and nothing twice however often it is asked to', async () => {
    keepInOutbox('one', { key: 'left', afterSeq: null, event: 'left', at: 1 });
    const told: [string, Delivered<string>][] = [];
    const tell = (entry: Waiting<string>, delivered: Delivered<string>) => told.push([entry.event, delivered]);
    box.recall(tell);
    box.recall(tell);
    void box.add('new');
    await pass(200);
    expect([arrived, told]).toEqual([['left', 'new'], [['left', { answer: 'took left' }]]]);
  });

  it('leaves what belongs to another workshop', async () => {
    const meta = document.head.appendChild(document.createElement('meta'));
    meta.name = 'sapolin-database';
    meta.content = 'one';
    keepInOutbox('one', { key: 'theirs', afterSeq: null, event: 'theirs', at: 1 });
    meta.content = 'two';
    box.recall(() => undefined);
    await pass(100);
    expect(arrived).toEqual([]);
    meta.content = 'one';
    expect(kept()).toEqual(['theirs']);
    meta.remove();
  });
});
