import { act, fireEvent, screen } from '@testing-library/react';
import { describe, expect, it, vi } from 'vitest';

import { show } from '../testing/show';
import { PickOne } from './PickOne';

const CHOICES = [
  { id: 'lot', name: 'Coconut, lot C7', synonyms: [], tag: '', about: '' },
  { id: 'coconut', name: 'Coconut', synonyms: ['copra'], tag: '', about: '' },
];

describe('what Enter takes', () => {
  it('is what the words say, also when they were typed before the list was drawn', async () => {
    const onPick = vi.fn();
    await show(<PickOne label="Add" choices={CHOICES} onPick={onPick} testId="pick" />);
    const field = screen.getByTestId<HTMLInputElement>('pick');
    act(() => field.focus());
    // So far the lot stands first; with its last letter the oil does.
    fireEvent.change(field, { target: { value: 'coconu' } });
    act(() => {
      fireEvent.change(field, { target: { value: 'coconut 25' } });
      fireEvent.keyDown(field, { key: 'Enter', code: 'Enter' });
    });
    expect(onPick.mock.calls).toEqual([['coconut', '25']]);
    expect(field.value).toBe('');
  });

  it('is nothing when nothing matches, and what was typed stays', async () => {
    const onPick = vi.fn();
    await show(<PickOne label="Add" choices={CHOICES} onPick={onPick} testId="pick" />);
    const field = screen.getByTestId<HTMLInputElement>('pick');
    act(() => field.focus());
    fireEvent.change(field, { target: { value: 'tallow 5' } });
    fireEvent.keyDown(field, { key: 'Enter', code: 'Enter' });
    expect(onPick).not.toHaveBeenCalled();
    expect(field.value).toBe('tallow 5');
  });

  it('is where the arrows went', async () => {
    const onPick = vi.fn();
    const { user } = await show(<PickOne label="Add" choices={CHOICES} onPick={onPick} testId="pick" />);
    await user.click(screen.getByTestId('pick'));
    await user.keyboard('coco 5');
    await screen.findByText('Coconut, lot C7');
    await user.keyboard('{ArrowDown}{Enter}');
    expect(onPick.mock.calls).toEqual([['coconut', '5']]);
  });
});
