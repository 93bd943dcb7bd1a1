import { describe, expect, it } from 'vitest';

import type { WeightUnit } from '../api/types';
import { formatChance, formatChange, formatNumber, formatShare, parseNumber, parseWeight } from './quantity';

const unit = (id: WeightUnit['id'], grams: number): WeightUnit => ({
  id,
  name: id,
  grams,
  decimals: 1,
  decimals_when_heavy: 0,
  lye_decimals: 1,
  lye_decimals_in_test_batch: 2,
});
const units = [unit('g', 1), unit('kg', 1000), unit('oz', 28.349523125), unit('lb', 453.59237)];

describe('parseNumber', () => {
  it.each([
    ['12.5', 12.5],
    ['12,5', 12.5],
    ['1/2', 0.5],
    ['33 1/3', 33 + 1 / 3],
    ['1 000', 1000],
    ['1 234,5', 1234.5],
    ['5 %', 5],
    ['-3', -3],
    ['−3', -3],
    ['.5', 0.5],
    ['', null],
  ])('reads %j as %j', (text, value) => {
    expect(parseNumber(text)).toEqual({ ok: true, value });
  });

  it.each(['abc', '12abc', '1/0', '1,000', '1.2.3', '--1', '1e5', 'NaN', 'Infinity'])('refuses %j', (text) => {
    expect(parseNumber(text).ok).toBe(false);
  });

  it('says both readings of an ambiguous comma', () => {
    expect(parseNumber('1,250')).toEqual({
      ok: false,
      message: '“1,250” can mean two things. Write 1250 or 1.250.',
    });
  });
});

describe('parseWeight', () => {
  it.each([
    ['350', 'g', 350],
    ['350g', 'oz', 350],
    ['12', 'oz', 340.1942775],
    ['1/2 lb', 'g', 226.796185],
    ['1 lb 3 oz', 'g', 538.640939375],
    ['1.2 kg', 'g', 1200],
    ['1,2kg', 'lb', 1200],
    ['2 lbs', 'g', 907.18474],
    ['-5 g', 'g', -5],
  ] as const)('reads %j (in %s) as %d g', (text, unitId, grams) => {
    const parsed = parseWeight(text, unitId, units);
    expect(parsed.ok && parsed.value).toBeCloseTo(grams, 9);
  });

  it.each(['heavy', '12 stone', '5 %', '1 lb oz', '3 g g'])('refuses %j and says how to write it', (text) => {
    const parsed = parseWeight(text, 'g', units);
    expect(parsed.ok).toBe(false);
  });
});

describe('formatting', () => {
  it('groups thousands and keeps a true minus', () => {
    expect(formatNumber(1234.56, 1)).toBe('1 234.6');
    expect(formatNumber(-2, 1)).toBe('−2.0');
    expect(formatNumber(-0.04, 1)).toBe('0.0');
    expect(formatNumber(1234567, 0)).toBe('1 234 567');
    expect(formatNumber(999.96, 1)).toBe('1 000.0');
  });

  it.each([
    [12, '12.0'],
    [12.3, '12.3'],
    [12.35, '12.35'],
    [12.304, '12.3'],
    [0.996, '1.0'],
  ])('a share of %d has a second decimal only when it is needed', (value, said) => expect(formatShare(value)).toBe(said));

  it('rounds what the number is in binary, as the server does', () => {
    // 1.005 is 1.00499999999999989… in binary, 10.05 is 10.0500000000000007….
    expect(formatNumber(1.005, 2)).toBe('1.00');
    expect(formatNumber(10.05, 1)).toBe('10.1');
  });

  it('leaves out changes that round to nothing', () => {
    expect(formatChange(0.4)).toBe('');
    expect(formatChange(1.6)).toBe('+2');
    expect(formatChange(-1.6)).toBe('−2');
  });
});

describe('formatChance', () => {
  it.each([
    [100, 'over 99 %'],
    [99.5, 'over 99 %'],
    [99.4, '99 %'],
    [0.5, '1 %'],
    [0.2, 'under 1 %'],
  ])('%d', (percent, said) => expect(formatChance(percent)).toBe(said));
});
