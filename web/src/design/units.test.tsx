import { describe, expect, it } from 'vitest';

import type { Text, WeightUnit } from '../api/types';
import { shownIn, weightIn } from './units';

const plain = (text: string) => text.replaceAll(/[\u00a0\u2009\u202f]/g, ' ');

const GRAMS: WeightUnit = {
  id: 'g', name: 'grams', grams: 1, decimals: 1, decimals_when_heavy: 0, lye_decimals: 1, lye_decimals_in_test_batch: 2,
};
const OUNCES: WeightUnit = {
  id: 'oz', name: 'ounces', grams: 28.349523125, decimals: 2, decimals_when_heavy: 2, lye_decimals: 2, lye_decimals_in_test_batch: 3,
};
const KILOGRAMS: WeightUnit = {
  id: 'kg', name: 'kilograms', grams: 1000, decimals: 4, decimals_when_heavy: 3, lye_decimals: 4, lye_decimals_in_test_batch: 5,
};

describe('a sentence in the maker’s units', () => {
  it.each<[Text, string]>([
    [['Oils and lye between ', { kind: 'temperature', c: 32, to_c: 43 }, '.'], 'Oils and lye between 90 to 109 °F.'],
    [['at most ', { kind: 'temperature_difference', c: 5.6 }, ' apart'], 'at most 10 °F apart'],
    [['The room is at ', { kind: 'temperature', c: -5 }], 'The room is at 23 °F'],
    [['Version 3, ', { kind: 'number', value: 38, decimals: 0, unit: '' }, ' bars'], 'Version 3, 38 bars'],
  ])('shows temperatures: %j', (said, expected) => {
    expect(plain(shownIn(said, '°F', GRAMS))).toBe(expected);
  });

  it.each<[Text, string]>([
    [['Castor is ', { kind: 'weight', g: 5.4, decimals: 1 }, ' over.'], 'Castor is 0.19 oz over.'],
    [[{ kind: 'weight', g: 1240, decimals: 0 }, ' of batter'], '43.74 oz of batter'],
    [['takes ', { kind: 'weight', g: 0.05, decimals: 2 }, ' NaOH'], 'takes 0.002 oz NaOH'],
    [['at ', { kind: 'number', value: 1.02, unit: 'g/mL' }], 'at 1.02 g/mL'],
    [['3 grades, 2 gels'], '3 grades, 2 gels'],
  ])('shows weights: %j', (said, expected) => {
    expect(plain(shownIn(said, '°C', OUNCES))).toBe(expected);
  });

  it('shows grams and °C as they are', () => {
    const said: Text = [{ kind: 'weight', g: 1240.26, decimals: 1 }, ' at ', { kind: 'temperature', c: 32.4, to_c: 43 }];
    expect(plain(shownIn(said, '°C', GRAMS))).toBe('1 240.3 g at 32 to 43 °C');
  });

  it('keeps a number and its unit together', () => {
    expect(shownIn(['add ', { kind: 'weight', g: 90, decimals: 0 }, ' more'], '°C', GRAMS)).toBe('add 90\u00a0g more');
  });
});

describe('a weight', () => {
  it('is told as finely as its grams would be', () => {
    expect([0, 1, 2].map((decimals) => weightIn(530.25, decimals, GRAMS))).toEqual(['530', '530.3', '530.25']);
    expect([0, 1, 2].map((decimals) => weightIn(530.25, decimals, OUNCES))).toEqual(['18.70', '18.70', '18.704']);
    expect([0, 1, 2].map((decimals) => weightIn(530.25, decimals, KILOGRAMS))).toEqual(['0.530', '0.5302', '0.53025']);
  });
});
