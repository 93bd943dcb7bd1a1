import { describe, expect, it } from 'vitest';

import type { Formula } from '../api/types';
import { startingFormula } from '../testing/startingFormula';
import { record, redo, startHistory, undo } from './history';

const named = (name: string): Formula => ({
  ...startingFormula(),
  name,
  purpose: 'face',
  notes: '',
  blend: { lines: [] },
  lye: { naoh_purity_percent: null },
  superfat_percent: null,
  water: { by: 'water_to_lye', value: null },
});

describe('history', () => {
  it('goes back and forth', () => {
    const two = record(record(startHistory(named('a')), named('b'), null), named('c'), null);
    expect(undo(two).present.name).toBe('b');
    expect(undo(undo(undo(two))).present.name).toBe('a');
    expect(redo(undo(two)).present.name).toBe('c');
    expect(redo(two)).toBe(two);
  });

  it('joins edits of one thing into one step, and only those', () => {
    let history = record(startHistory(named('a')), named('ab'), 'name');
    history = record(history, named('abc'), 'name');
    history = record(history, named('xyz'), 'purpose');
    expect(undo(history).present.name).toBe('abc');
    expect(undo(undo(history)).present.name).toBe('a');
  });

  it('forgets the future after a new edit', () => {
    const edited = record(undo(record(startHistory(named('a')), named('b'), null)), named('c'), null);
    expect(redo(edited).present.name).toBe('c');
    expect(undo(edited).present.name).toBe('a');
  });
});
