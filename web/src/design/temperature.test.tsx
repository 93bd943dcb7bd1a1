import { describe, expect, it } from 'vitest';

import { fromCelsius, parseTemperature } from './temperature';

describe('parseTemperature', () => {
  it.each([
    ['38', '°C', 38],
    ['100', '°F', 37.78],
    ['100 F', '°C', 37.78],
    ['100°f', '°C', 37.78],
    ['38 °C', '°F', 38],
    ['37,5', '°C', 37.5],
    ['-4 F', '°C', -20],
  ] as const)('reads %s in %s', (text, unit, celsius) => {
    expect(parseTemperature(text, unit)).toEqual({ ok: true, value: celsius });
  });

  it('says what it cannot read', () => {
    expect(parseTemperature('warm', '°C').ok).toBe(false);
    expect(parseTemperature('', '°C')).toEqual({ ok: true, value: null });
  });

  it('goes back to the unit it is shown in', () => {
    expect(fromCelsius(100, '°F')).toBe(212);
    expect(fromCelsius(40, '°C')).toBe(40);
  });
});
