import { act, renderHook, waitFor } from '@testing-library/react';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { beforeEach, describe, expect, it } from 'vitest';

import { newBatch, type Batch } from '../testing/kitchen';
import { silence } from '../testing/network';
import { keepInOutbox, recallOutbox } from '../sync/outbox';
import { useRun } from './useRun';

let batch: Batch;

/** A device of its own: it remembers nothing that another one asked. */
function device() {
  const client = new QueryClient();
  const wrapper = ({ children }: { children: ReactNode }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>;
  return renderHook(() => useRun(batch.id), { wrapper });
}

const isEvent = (request: Request) => request.method === 'POST' && request.url.endsWith('/events');
const note = (text: string) => ({ kind: 'noted', text, next_time: false }) as const;
const notes = async () => (await batch.run()).state.notes.map((one) => one.what);

describe('the record from a device', () => {
  beforeEach(async () => {
    batch = await newBatch();
    await batch.send({ kind: 'started', targets_g: {} });
  });

  it('says that all is on disk only when it is', async () => {
    const { result } = device();
    await waitFor(() => expect(result.current.run).toBeDefined());
    let sent: Promise<unknown> = Promise.resolve();
    act(() => {
      sent = result.current.send(note('Warm day.'));
    });
    expect(result.current.isSaved).toBe(false);
    await act(() => sent);
    expect(result.current.isSaved).toBe(true);
    expect(await notes()).toEqual(['Warm day.']);
  });

  it.each(['before', 'after'] as const)('sends again what had no answer %s it was taken, and adds it once', async (when) => {
    const { result } = device();
    await waitFor(() => expect(result.current.run).toBeDefined());
    silence(1, when, isEvent);
    let sent: Promise<unknown> = Promise.resolve();
    act(() => {
      sent = result.current.send(note('Stirred by hand.'));
    });
    await waitFor(() => expect(result.current.isOffline).toBe(true));
    await act(() => sent);
    expect(result.current.isOffline).toBe(false);
    expect(await notes()).toEqual(['Stirred by hand.']);
  });

  it('sends what a closed tab left behind', async () => {
    keepInOutbox(batch.id, { key: 'left-behind-1', afterSeq: null, event: note('Before it was closed.'), at: 1 });
    const { result } = device();
    await waitFor(() => expect(result.current.isSaved).toBe(true));
    expect(await notes()).toEqual(['Before it was closed.']);
    expect(recallOutbox(batch.id)).toEqual([]);
  });

  it('is not held up by what the server can never take', async () => {
    keepInOutbox(batch.id, { key: 'never-taken-1', afterSeq: null, event: { kind: 'finished' }, at: 1 });
    keepInOutbox(batch.id, { key: 'left-behind-2', afterSeq: null, event: note('Behind it.'), at: 2 });
    const { result } = device();
    await waitFor(() => expect(result.current.isSaved).toBe(true));
    expect(await notes()).toEqual(['Behind it.']);
  });

  it('keeps the order in which it was told, however quickly', async () => {
    const { result } = device();
    await waitFor(() => expect(result.current.run).toBeDefined());
    await act(() => Promise.all(['one', 'two', 'three'].map((text) => result.current.send(note(text)))));
    expect(await notes()).toEqual(['one', 'two', 'three']);
  });

  it('does not do a step that another device did meanwhile', async () => {
    const { result } = device();
    await waitFor(() => expect(result.current.run).toBeDefined());
    const gear = result.current.run?.prepared.steps[0];
    await batch.send({ kind: 'step_done', step: 'gear', confirmed: gear?.checks ?? [] });
    const sent = await act(() => result.current.send({ kind: 'step_done', step: 'gear', confirmed: gear?.checks ?? [] }));
    expect(sent.ok).toBe(false);
    await waitFor(() => expect(result.current.run?.state.current).toBe('room'));
    expect(result.current.isSaved).toBe(true);
  });

  it('hands on what the server refuses, and goes on', async () => {
    const { result } = device();
    await waitFor(() => expect(result.current.run).toBeDefined());
    const sent = await act(() => result.current.send({ kind: 'finished' }));
    expect(sent).toMatchObject({ ok: false, problem: { code: 'steps_left' } });
    await act(() => result.current.send(note('All the same.')));
    expect(await notes()).toEqual(['All the same.']);
  });
});
