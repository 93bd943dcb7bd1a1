import { useCallback, useMemo } from 'react';

import type { Diagnostic, Quantity, Text, WeightUnit } from '../api/types';
import { formatChange, formatNumber, parseWeight } from './quantity';
import { useSettings } from '../app/settings';
import { fromCelsius, type TemperatureUnit } from './temperature';

const MOST_DECIMALS = 10;

/** Decimals in `unit` that say as much as `decimals` of a gram. */
function placesIn(unit: WeightUnit, decimals: number): number {
  if (decimals === 0) return unit.decimals_when_heavy;
  return decimals > 1 ? unit.lye_decimals_in_test_batch : unit.lye_decimals;
}

/** A weight in the maker's unit, as finely as `decimals` of a gram would tell it. */
export function weightIn(grams: number, decimals: number, unit: WeightUnit): string {
  return formatNumber(grams / unit.grams, placesIn(unit, decimals));
}

function quantityIn(quantity: Quantity, temperature: TemperatureUnit, weight: WeightUnit): string {
  const degrees = (celsius: number) => formatNumber(fromCelsius(celsius, temperature), 0);
  switch (quantity.kind) {
    case 'weight':
      return weight.id === 'g' ? `${formatNumber(quantity.g, quantity.decimals)} g` : `${weightIn(quantity.g, quantity.decimals, weight)} ${weight.id}`;
    case 'temperature':
      return `${[quantity.c, quantity.to_c].filter((one) => one != null).map(degrees).join(' to ')} ${temperature}`;
    case 'temperature_difference':
      return temperature === '°C' ? `${formatNumber(quantity.c, 1)} °C` : `${formatNumber(quantity.c * 1.8, 0)} °F`;
    case 'number': {
      const digits = quantity.decimals == null ? formatNumber(quantity.value, MOST_DECIMALS, 0) : formatNumber(quantity.value, quantity.decimals);
      return quantity.unit === '' ? digits : `${digits} ${quantity.unit}`;
    }
  }
}

/** A text of the server with its quantities in the units that the maker reads; a number and its unit stay on one line. */
export function shownIn(text: Text | string, temperature: TemperatureUnit, weight: WeightUnit): string {
  const parts = typeof text === 'string' ? [text] : text;
  return parts.map((part) => (typeof part === 'string' ? part : quantityIn(part, temperature, weight).replaceAll(' ', '\u00a0'))).join('');
}

/** What it is and what to do about it. */
export function saidOf({ message, remedy }: Diagnostic): Text {
  return remedy.length > 0 ? [...message, ' ', ...remedy] : message;
}

/** Shows texts of the server in the maker's units. */
export function useShown(): (text: Text | string) => string {
  const { temperatureUnit, weightUnit } = useSettings();
  return useCallback((text) => shownIn(text, temperatureUnit, weightUnit), [temperatureUnit, weightUnit]);
}

/** Weights as the maker reads and types them. */
export function useWeights() {
  const { weightUnit, weightUnits } = useSettings();
  return useMemo(
    () => ({
      unit: weightUnit.id,
      format: (grams: number, decimals = 1) => weightIn(grams, decimals, weightUnit),
      /** With its unit. */
      tell: (grams: number, decimals = 0) => `${weightIn(grams, decimals, weightUnit)}\u00a0${weightUnit.id}`,
      /** Signed; empty when it rounds to nothing. */
      change: (grams: number, decimals = 1) => formatChange(grams / weightUnit.grams, placesIn(weightUnit, decimals)),
      parse: (text: string) => parseWeight(text, weightUnit.id, weightUnits),
    }),
    [weightUnit, weightUnits],
  );
}
