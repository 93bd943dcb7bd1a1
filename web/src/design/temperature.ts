import { useMemo } from 'react';

import { formatNumber, parseNumber, type Parsed } from './quantity';
import { useSettings } from '../app/settings';

export type TemperatureUnit = '°C' | '°F';

export function toCelsius(value: number, unit: TemperatureUnit): number {
  return unit === '°C' ? value : (value - 32) / 1.8;
}

export function fromCelsius(celsius: number, unit: TemperatureUnit): number {
  return unit === '°C' ? celsius : celsius * 1.8 + 32;
}

/** Read a temperature; a bare number is in `unit`, `100 F` and `38 °C` say their own. */
export function parseTemperature(text: string, unit: TemperatureUnit): Parsed {
  const match = /^(.*?)\s*°?\s*([CF])$/i.exec(text.trim());
  const said = match?.[2]?.toUpperCase();
  const parsed = parseNumber(match ? (match[1] ?? '') : text);
  if (!parsed.ok || parsed.value === null) return parsed;
  const own: TemperatureUnit = said === 'F' ? '°F' : said === 'C' ? '°C' : unit;
  return { ok: true, value: Math.round(toCelsius(parsed.value, own) * 100) / 100 };
}

/** Temperatures as the maker reads them. */
export function useTemperature() {
  const { temperatureUnit: unit } = useSettings();
  return useMemo(
    () => ({
      unit,
      letter: unit === '°F' ? ('F' as const) : ('C' as const),
      fromCelsius: (celsius: number) => fromCelsius(celsius, unit),
      format: (celsius: number, decimals = 0) => formatNumber(fromCelsius(celsius, unit), decimals),
      parse: (text: string) => parseTemperature(text, unit),
    }),
    [unit],
  );
}
