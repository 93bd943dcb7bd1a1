import { screen } from '@testing-library/react';
import { useState } from 'react';
import { describe, expect, it, vi } from 'vitest';

import { show } from '../testing/show';
import { NumberField } from './NumberField';
import { formatNumber, parseNumber } from './quantity';

interface FieldProps {
  start?: number | null;
  problem?: string;
  offers?: { value: number; label: string[] }[];
  onValue?: (value: number | null) => void;
  emptyIs?: number;
}

function Field({ start = 5, problem, offers, onValue, emptyIs }: FieldProps) {
  const [value, setValue] = useState<number | null>(start);
  const [unread, setUnread] = useState<string | undefined>();
  return (
    <>
      <NumberField
        label="Superfat"
        unit="%"
        value={value}
        step={0.5}
        format={(shown) => formatNumber(shown, 1)}
        parse={parseNumber}
        unread={unread}
        onUnread={(text) => setUnread(text ?? undefined)}
        onChange={(next) => {
          setValue(next);
          onValue?.(next);
        }}
        emptyIs={emptyIs}
        problem={problem}
        offers={offers}
      />
      <button type="button" onClick={() => setValue(8)}>
        Undo
      </button>
    </>
  );
}

const field = () => screen.getByRole<HTMLInputElement>('textbox', { name: 'Superfat' });

describe('NumberField', () => {
  it('reads every way of writing a number and shows one when it is left', async () => {
    const onValue = vi.fn();
    const { user } = await show(<Field onValue={onValue} />);
    await user.clear(field());
    await user.type(field(), '7 1/2');
    expect(field().value).toBe('7 1/2');
    expect(onValue).toHaveBeenLastCalledWith(7.5);
    await user.tab();
    expect(field().value).toBe('7.5');
  });

  it('keeps what it cannot read, says so, and leaves the value alone', async () => {
    const onValue = vi.fn();
    const { user } = await show(<Field onValue={onValue} />);
    await user.clear(field());
    onValue.mockClear();
    await user.type(field(), 'five');
    await user.tab();
    expect(field().value).toBe('five');
    expect(field().getAttribute('aria-invalid')).toBe('true');
    expect(document.getElementById(field().getAttribute('aria-describedby') ?? '')?.textContent).toContain('five');
    expect(onValue).not.toHaveBeenCalled();
  });

  it('steps with the arrow keys, ten times as far with Shift, without binary dust', async () => {
    const { user } = await show(<Field start={0.1} />);
    await user.click(field());
    await user.keyboard('{ArrowUp}');
    expect(field().value).toBe('0.6');
    await user.keyboard('{Shift>}{ArrowUp}{/Shift}{ArrowDown}{ArrowDown}');
    expect(field().value).toBe('4.6');
  });

  it('does not step from nothing', async () => {
    const onValue = vi.fn();
    const { user } = await show(<Field start={null} onValue={onValue} />);
    await user.click(field());
    await user.keyboard('{ArrowUp}');
    expect(onValue).not.toHaveBeenCalled();
  });

  it('follows a value that changes by other means', async () => {
    const { user } = await show(<Field />);
    await user.clear(field());
    await user.type(field(), '6');
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    expect(field().value).toBe('8.0');
  });

  it('offers what may have been meant and takes it only when it is chosen', async () => {
    const onValue = vi.fn();
    const { user } = await show(
      <Field start={950} problem="950 % is more than 100 %." offers={[{ value: 95, label: ['95 %'] }]} onValue={onValue} />,
    );
    expect(onValue).not.toHaveBeenCalled();
    await user.click(screen.getByRole('button', { name: 'Take 95 %' }));
    expect(onValue).toHaveBeenCalledExactlyOnceWith(95);
    expect(field().value).toBe('95.0');
  });

  it('is no number while it is empty, or the one that an empty box stands for', async () => {
    const onValue = vi.fn();
    const { user, unmount } = await show(<Field onValue={onValue} />);
    await user.clear(field());
    expect(onValue).toHaveBeenLastCalledWith(null);
    unmount();
    await show(<Field onValue={onValue} emptyIs={100} />);
    await user.clear(field());
    expect(onValue).toHaveBeenLastCalledWith(100);
    // Nothing is written into the box under the maker's hands.
    expect(field().value).toBe('');
    await user.type(field(), '12');
    expect(onValue).toHaveBeenLastCalledWith(12);
    await user.clear(field());
    await user.tab();
    expect(field().value).toBe('100.0');
  });

  it('Escape restores what stood there when it was entered', async () => {
    const onValue = vi.fn();
    const { user } = await show(<Field start={40} onValue={onValue} />);
    await user.click(field());
    await user.clear(field());
    await user.type(field(), '77');
    await user.keyboard('{Escape}');
    expect(onValue).toHaveBeenLastCalledWith(40);
    expect(field().value).toBe('40.0');
    await user.clear(field());
    await user.type(field(), 'half');
    await user.keyboard('{Escape}');
    expect(field().value).toBe('40.0');
  });
});
