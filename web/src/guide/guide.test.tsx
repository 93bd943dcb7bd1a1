import { screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { show } from '../testing/show';
import { agoInWords, Backups } from './Backups';
import { Fault, Faults } from './Faults';
import { Practice, PracticeOne } from './Practice';
import { Safety } from './Safety';
import { SchoolChoices } from './SchoolChoices';
import { Why, WhyPage } from './Why';

const percentOf = (testId: string) => Number.parseFloat(within(screen.getByTestId(testId)).getByText(/^\d+\s%$/).textContent ?? '');

describe('why', () => {
  it('has a page for each quality, with a formula as its example', async () => {
    const { unmount } = await show(<Why />, { at: '/guide' });
    expect((await screen.findByTestId('page-hardness')).getAttribute('href')).toBe('/guide/why/hardness');
    unmount();
    await show(<WhyPage />, { at: '/guide/why/superfat', route: '/guide/why/:pageId' });
    expect((await screen.findByTestId('live-value')).textContent).toMatch(/^\d+(\.\d)? %$/);
    expect(screen.getByTestId('practise-it').getAttribute('href')).toBe('/guide/practice/unsafe');
  });

  it('says when there is no such page', async () => {
    await show(<WhyPage />, { at: '/guide/why/nothing', route: '/guide/why/:pageId' });
    expect(await screen.findByText('There is no such page')).toBeTruthy();
  });
});

describe('the fault finder', () => {
  it('draws and names what may be seen', async () => {
    await show(<Faults />, { at: '/guide/faults' });
    const ash = await screen.findByTestId('symptom-ash');
    expect(ash.querySelector('svg')).not.toBeNull();
    expect(ash.textContent).toContain('White dust on the top');
  });

  it('ranks anew with each answer, and takes an answer back', async () => {
    const { user } = await show(<Fault />, { at: '/guide/faults/crumble', route: '/guide/faults/:symptom' });
    await screen.findByTestId('cause-lye_heavy');
    const before = percentOf('cause-lye_heavy');
    await user.click(screen.getByTestId('zaps-yes'));
    await waitFor(() => expect(percentOf('cause-lye_heavy')).toBeGreaterThan(2 * before));
    expect(screen.getByTestId('cause-lye_heavy').textContent).toContain('Does it zap');
    await user.click(screen.getByTestId('zaps-yes'));
    await waitFor(() => expect(percentOf('cause-lye_heavy')).toBe(before));
  });

  it('goes by the record of a batch', async () => {
    const { batches } = await answered(api.GET('/api/batches', { params: { query: { search: 'B-098' } } }));
    await show(<Fault />, { at: `/guide/faults/ash?batch=${batches[0]?.id ?? ''}`, route: '/guide/faults/:symptom' });
    const first = await screen.findByTestId('cause-wet');
    await waitFor(() => expect(first.textContent).toMatch(/Lye at \d+\s%: wet/));
  });
});

describe('practice', () => {
  it('shows every kind of exercise and the courses', async () => {
    await show(<Practice />, { at: '/guide/practice' });
    for (const kind of ['swap', 'overshoot', 'trace', 'fault', 'mould', 'unsafe']) expect(await screen.findByTestId(`practise-${kind}`)).toBeTruthy();
    expect(screen.getByText('Your first bar')).toBeTruthy();
  });

  it('is done by the keyboard alone, judged with its reason, and counted', async () => {
    const { user } = await show(<PracticeOne />, { at: '/guide/practice/unsafe', route: '/guide/practice/:kind' });
    await screen.findByTestId('option-1');
    const counted = async () => (await answered(api.GET('/api/practice'))).kinds.find((one) => one.kind === 'unsafe')?.so_far.answered ?? 0;
    const before = await counted();
    await user.keyboard('2');
    expect(screen.getByTestId('option-2').getAttribute('aria-checked')).toBe('true');
    await user.keyboard('{Enter}');
    const verdict = await screen.findByTestId('verdict');
    expect(verdict.textContent).toMatch(/superfat −\d/);
    expect(await counted()).toBe(before + 1);
    await user.click(screen.getByTestId('next-exercise'));
    await waitFor(() => expect(screen.queryByTestId('verdict')).toBeNull());
  });

  it('brings a simulated scale right', async () => {
    // Every other exercise is on the scale: another one until it is.
    const { user } = await show(<PracticeOne />, { at: '/guide/practice/overshoot', route: '/guide/practice/:kind' });
    await screen.findByTestId('exercise');
    for (let i = 0; i < 20 && screen.queryByTestId('practice-scale') === null; i++) {
      await user.click(await screen.findByTestId('option-1'));
      await user.click(screen.getByTestId('check-answer'));
      await user.click(await screen.findByTestId('next-exercise'));
      await waitFor(() => expect(screen.queryByTestId('verdict')).toBeNull());
      await screen.findByTestId('exercise');
    }
    const [shown = 0, goal = 0] = [screen.getByTestId('practice-scale').textContent, screen.getByText(/, of /).textContent].map((words) => Number.parseFloat((words ?? '').replace(/[^\d.]/g, '')));
    for (let grams = shown; grams > goal + 0.05; grams -= 0.1) await user.click(screen.getByTestId('pinch'));
    await user.click(screen.getByTestId('check-answer'));
    expect((await screen.findByTestId('verdict')).textContent).toContain('Right');
  });
});

describe('safety and schools', () => {
  it('has first aid, and the numbers to call', async () => {
    await show(<Safety />, { at: '/guide/safety' });
    expect(await screen.findByText('First aid')).toBeTruthy();
    expect(screen.getByRole('link', { name: 'Print, A4' }).getAttribute('href')).toContain('safety.pdf');
    expect(await screen.findByTestId('edit-numbers')).toBeTruthy();
  });

  it('shows what is chosen at once, and keeps it; also when another thing is chosen before the first is kept', async () => {
    const { user } = await show(<SchoolChoices />);
    const mixing = within(await screen.findByTestId('school-mixing'));
    const radio = (name: RegExp) => mixing.getByRole<HTMLInputElement>('radio', { name });
    await user.click(radio(/whisk/));
    expect(radio(/whisk/).checked).toBe(true);
    await user.click(radio(/stick blender/));
    expect(radio(/stick blender/).checked).toBe(true);
    expect(await screen.findByText('Saved')).toBeTruthy();
    expect((await answered(api.GET('/api/workshop'))).schools.mixing).toBe('stick_blender');
    await user.click(radio(/whisk/));
    await waitFor(async () => expect((await answered(api.GET('/api/workshop'))).schools.mixing).toBe('whisk'));
    await user.click(radio(/stick blender/));
    await waitFor(async () => expect((await answered(api.GET('/api/workshop'))).schools.mixing).toBe('stick_blender'));
  });

  it('keeps two choices made one right after the other', async () => {
    const { user } = await show(<SchoolChoices />);
    const before = (await answered(api.GET('/api/workshop'))).schools;
    const press = async (question: string, at: number) => user.click(within(await screen.findByTestId(`school-${question}`)).getAllByRole('radio')[at] as HTMLElement);
    const questions = ['mixing', 'extras_at'];
    for (const question of questions) await press(question, 1);
    await waitFor(async () => {
      const { schools } = await answered(api.GET('/api/workshop'));
      for (const question of questions) expect(schools[question as keyof typeof schools]).not.toBe(before[question as keyof typeof before]);
    });
    await answered(api.PATCH('/api/workshop', { body: { schools: before } }));
  });
});

describe('backups', () => {
  it('takes one, says what putting it back would change, and puts it back', async () => {
    const { user } = await show(<Backups />, { at: '/guide/backups' });
    await screen.findByTestId('backup-age');
    const before = screen.queryAllByTestId('backup').length;
    await user.click(screen.getByTestId('take-backup'));
    await waitFor(() => expect(screen.getAllByTestId('backup').length).toBe(before + 1));
    expect(screen.getByTestId('backup-age').textContent).toContain('In this hour');
    await answered(api.PATCH('/api/workshop', { body: { emergency_number: '112' } }));
    const first = screen.getAllByTestId('backup')[0] as HTMLElement;
    await user.click(within(first).getByRole('button', { name: /Put back/ }));
    expect((await screen.findByTestId('differences')).textContent).toContain('settings of the workshop');
    await user.click(screen.getByTestId('put-back'));
    expect((await screen.findByTestId('put-back-done')).textContent).toContain('kept as a backup');
  });

  it('refuses a second place that is no whole path, and keeps what was typed', async () => {
    const { user } = await show(<Backups />, { at: '/guide/backups' });
    await user.type(await screen.findByTestId('second-place'), 'my stick');
    await user.click(screen.getByTestId('keep-second-place'));
    expect(await screen.findByText(/is not a whole path/)).toBeTruthy();
    expect((screen.getByTestId('second-place') as HTMLInputElement).value).toBe('my stick');
  });

  it('tells an age at a glance', () => {
    const now = Date.parse('2031-05-10T12:00:00Z');
    expect(agoInWords('2031-05-10T11:30:00+00:00', now)).toBe('In this hour');
    expect(agoInWords('2031-05-10T07:10:00+00:00', now)).toMatch(/^4.h ago$/);
    expect(agoInWords('2031-05-04T07:10:00+00:00', now)).toMatch(/^6 days ago$/);
  });
});
