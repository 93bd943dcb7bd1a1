import { useCallback, useMemo } from 'react';

import type { WeightUnit } from '../api/types';
import { formatChange, formatNumber, parseWeight } from './quantity';
import { useSettings } from '../app/settings';
import { fromCelsius, type TemperatureUnit } from './temperature';

/** One temperature or two, as the sentences of the server tell them; a difference, which says both units itself, is none. */
const TEMPERATURES = /(-?\d+(?:\.\d+)?)(?:( to | and |-)(-?\d+(?:\.\d+)?))? °C(?! \()/g;
const GRAMS = /(?<![\d.,])(\d[\d,]*)(?:\.(\d+))? g\b(?!\/)/g;

/** Decimals in `unit` that say as much as `decimals` of a gram. */
function placesIn(unit: WeightUnit, decimals: number): number {
  if (decimals === 0) return unit.decimals_when_heavy;
  return decimals > 1 ? unit.lye_decimals_in_test_batch : unit.lye_decimals;
}

/** A weight in the maker's unit, as finely as `decimals` of a gram would tell it. */
export function weightIn(grams: number, decimals: number, unit: WeightUnit): string {
  return formatNumber(grams / unit.grams, placesIn(unit, decimals));
}

/** A sentence of the server, which tells temperatures in °C and weights in g, in the units that the maker reads. */
export function toldIn(text: string, temperature: TemperatureUnit, weight: WeightUnit): string {
  const degrees = (celsius: string) => formatNumber(fromCelsius(Number(celsius), temperature), 0);
  let told = text;
  if (temperature !== '°C') {
    told = told.replace(TEMPERATURES, (_, low: string, between?: string, high?: string) =>
      `${degrees(low)}${between !== undefined && high !== undefined ? between + degrees(high) : ''} ${temperature}`,
    );
  }
  if (weight.id !== 'g') {
    told = told.replace(GRAMS, (_, whole: string, decimals = '') =>
      `${weightIn(Number(`${whole.replaceAll(',', '')}.${decimals || '0'}`), decimals.length, weight)} ${weight.id}`,
    );
  }
  return told;
}

/** A number and its unit stay on one line. */
export function unbroken(text: string): string {
  return text.replace(/(\d) (%|°[CF]|g|kg|oz|lb|mL|h|mm)(?![\p{L}])/gu, '$1\u00a0$2');
}

/** Tells the sentences of the server in the maker's units. */
export function useTold(): (text: string) => string {
  const { temperatureUnit, weightUnit } = useSettings();
  return useCallback((text) => unbroken(toldIn(text, temperatureUnit, weightUnit)), [temperatureUnit, weightUnit]);
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
