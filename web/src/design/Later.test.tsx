import { act, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import { later, OnTheWay } from './Later';

const Scales = ({ of }: { of: string }) => <p>scales of {of}</p>;
const settled = () => act(() => vi.advanceTimersByTimeAsync(0));

beforeEach(() => vi.useFakeTimers());
afterEach(() => vi.useRealTimers());

it('is there at once when its code is known', async () => {
  const load = vi.fn(() => Promise.resolve(Scales));
  const Part = later(200, load);
  const first = render(<Part of="one" />);
  expect(screen.queryByText('scales of one')).toBeNull();
  await settled();
  expect(screen.getByText('scales of one')).toBeTruthy();
  first.unmount();
  render(<Part of="two" />);
  expect(screen.getByText('scales of two')).toBeTruthy();
  expect(load).toHaveBeenCalledTimes(1);
});

it('says when its code cannot be had, and comes when it can', async () => {
  const load = vi.fn<() => Promise<typeof Scales>>().mockRejectedValueOnce(new Error('Failed to fetch')).mockResolvedValue(Scales);
  const Part = later(200, load);
  render(<Part of="one" />);
  await settled();
  expect(screen.getByRole('status').textContent).toMatch(/could not be fetched/);
  await act(() => vi.advanceTimersByTimeAsync(3000));
  expect(screen.getByText('scales of one')).toBeTruthy();
  expect(screen.queryByRole('status')).toBeNull();
});

it('a part of a page is there with it on a wide screen', () => {
  render(
    <OnTheWay height={200}>
      <Scales of="one" />
    </OnTheWay>,
  );
  expect(screen.getByText('scales of one')).toBeTruthy();
});

describe('on a phone', () => {
  let arrive: (() => void)[];
  let lookedFor: (string | undefined)[];

  beforeEach(() => {
    arrive = [];
    lookedFor = [];
    vi.stubGlobal('matchMedia', () => ({ matches: true }));
    vi.stubGlobal(
      'IntersectionObserver',
      class {
        constructor(told: (seen: { isIntersecting: boolean }[]) => void, { rootMargin }: IntersectionObserverInit) {
          lookedFor.push(rootMargin);
          arrive.push(() => told([{ isIntersecting: true }]));
        }
        observe() {}
        disconnect() {}
      },
    );
    vi.stubGlobal('requestIdleCallback', (then: () => void) => setTimeout(then));
    vi.stubGlobal('cancelIdleCallback', clearTimeout);
  });
  afterEach(() => vi.unstubAllGlobals());

  const load = () => Promise.resolve(Scales);
  const isThere = () => screen.queryByText('scales of one') !== null;

  it('a part of a page comes when it is in sight, and once the page is in use when one is near it', () => {
    render(
      <OnTheWay height={200}>
        <Scales of="one" />
      </OnTheWay>,
    );
    expect(isThere()).toBe(false);
    expect(lookedFor).toEqual(['0px']);
    fireEvent.pointerDown(window);
    expect(lookedFor).toEqual(['0px', '300px 0px']);
    act(() => arrive.at(-1)?.());
    expect(isThere()).toBe(true);
  });

  it('what stands further down comes when one comes near it', async () => {
    const Part = later(200, load);
    render(<Part of="one" />);
    await act(() => vi.advanceTimersByTimeAsync(1000));
    expect(isThere()).toBe(false);
    act(() => arrive.forEach((come) => come()));
    await act(() => vi.advanceTimersByTimeAsync(10));
    expect(isThere()).toBe(true);
  });

  it('or when the page has long been quiet', async () => {
    const Part = later(200, load);
    render(<Part of="one" />);
    await act(() => vi.advanceTimersByTimeAsync(4900));
    expect(isThere()).toBe(false);
    await act(() => vi.advanceTimersByTimeAsync(200));
    await act(() => vi.advanceTimersByTimeAsync(10));
    expect(isThere()).toBe(true);
  });

  it('and what takes no room of its own does not wait', async () => {
    const Part = later(0, load);
    render(<Part of="one" />);
    await act(() => vi.advanceTimersByTimeAsync(10));
    expect(isThere()).toBe(true);
  });
});
