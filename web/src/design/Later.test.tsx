import { act, render, screen } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import { later } from './Later';

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
