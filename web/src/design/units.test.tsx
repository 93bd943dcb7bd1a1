import { describe, expect, it } from 'vitest';

import type { WeightUnit } from '../api/types';
import { toldIn, unbroken, weightIn } from './units';

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
  it.each([
    ['Oils and lye between 32 and 43 °C, at most 5.6 °C (10 °F) apart.', 'Oils and lye between 90 and 109 °F, at most 5.6 °C (10 °F) apart.'],
    ['It comes to about 90 to 105 °C.', 'It comes to about 194 to 221 °F.'],
    ['32-43 °C is usual', '90-109 °F is usual'],
    ['The room is at -5 °C.', 'The room is at 23 °F.'],
    ['The oils are at 38 °C, below the 62 °C of beeswax.', 'The oils are at 100 °F, below the 144 °F of beeswax.'],
    ['Version 3, 38 bars', 'Version 3, 38 bars'],
  ])('tells temperatures: %s', (said, expected) => {
    expect(toldIn(said, '°F', GRAMS)).toBe(expected);
    expect(toldIn(said, '°C', GRAMS)).toBe(said);
  });

  it.each([
    ['Castor is 5.4 g over.', 'Castor is 0.19 oz over.'],
    ['1,240 g of batter', '43.74 oz of batter'],
    ['takes 0.05 g NaOH', 'takes 0.002 oz NaOH'],
    ['at 1.02 g/mL', 'at 1.02 g/mL'],
    ['3 grades, 2 gels', '3 grades, 2 gels'],
    ['white 612 g; blue 408 g.', 'white 21.59 oz; blue 14.39 oz.'],
  ])('tells weights: %s', (said, expected) => {
    expect(toldIn(said, '°C', OUNCES)).toBe(expected);
  });

  it('keeps a number and its unit together, and no more than that', () => {
    expect(unbroken('5.6 °C apart, 17 % of 90 g gels')).toBe('5.6\u00a0°C apart, 17\u00a0% of 90\u00a0g gels');
    expect(unbroken('7 hours')).toBe('7 hours');
  });
});

describe('a weight', () => {
  it('is told as finely as its grams would be', () => {
    expect([0, 1, 2].map((decimals) => weightIn(530.25, decimals, GRAMS))).toEqual(['530', '530.3', '530.25']);
    expect([0, 1, 2].map((decimals) => weightIn(530.25, decimals, OUNCES))).toEqual(['18.70', '18.70', '18.704']);
    expect([0, 1, 2].map((decimals) => weightIn(530.25, decimals, KILOGRAMS))).toEqual(['0.530', '0.5303', '0.53025']);
  });
});
