import type { WeightUnit, WeightUnitId } from '../api/types';

export type Parsed = { ok: true; value: number | null } | { ok: false; message: string };

const EMPTY: Parsed = { ok: true, value: null };
const NUMBER = String.raw`(?:\d+\s+\d+/\d+|\d+/\d+|\d{1,3}(?:[  ]\d{3})+(?:[.,]\d+)?|\d*[.,]?\d+|\d+[.,]?)`;

/** Read a plain number as makers write it: `12.5`, `12,5`, `1/2`, `33 1/3`, `1 000`, with an optional `%`. */
export function parseNumber(text: string): Parsed {
  const trimmed = text.trim().replace(/\s*%$/, '');
  if (trimmed === '') return EMPTY;
  const sign = /^[-−]/.test(trimmed) ? -1 : 1;
  const value = readNumber(trimmed.replace(/^[-−+]\s*/, ''));
  if (typeof value === 'string') return { ok: false, message: value };
  return { ok: true, value: sign * value };
}

/** An amount typed behind a name: a weight when it says its unit, else a bare number; null when there is none to read. */
export function readAmount(text: string, unit: WeightUnitId, units: WeightUnit[]): { isWeight: boolean; value: number } | null {
  if (text.trim() === '') return null;
  const isWeight = /[a-z]/i.test(text);
  const parsed = isWeight ? parseWeight(text, unit, units) : parseNumber(text);
  return parsed.ok && parsed.value !== null ? { isWeight, value: parsed.value } : null;
}

/** Read a ratio of two weights, `8:2`, `80 : 20` or `80`, as the percentage that the first has of both. */
export function parseRatio(text: string): Parsed {
  const [first = '', second, ...rest] = text.split(':');
  if (second === undefined) return parseNumber(text);
  const one = parseNumber(first);
  const other = parseNumber(second);
  if (!one.ok) return one;
  if (!other.ok) return other;
  const whole = (one.value ?? 0) + (other.value ?? 0);
  if (rest.length > 0 || one.value === null || other.value === null || one.value < 0 || other.value < 0 || whole <= 0) {
    return { ok: false, message: `“${text.trim()}” is not a ratio of two weights. Write 8:2 or 80:20.` };
  }
  return { ok: true, value: (100 * one.value) / whole };
}

/** Read a weight in any unit, alone or in a row (`350g`, `1 lb 3 oz`, `1/2 lb`); a bare number is in `unit`. */
export function parseWeight(text: string, unit: WeightUnitId, units: WeightUnit[]): Parsed {
  const trimmed = text.trim();
  if (trimmed === '') return EMPTY;
  const grams = new Map(units.map((known) => [known.id as string, known.grams]));
  const bare = parseNumber(trimmed);
  if (bare.ok && !trimmed.endsWith('%')) {
    return bare.value === null ? EMPTY : { ok: true, value: bare.value * (grams.get(unit) ?? 1) };
  }
  const negative = /^[-−]/.test(trimmed);
  const rest = trimmed.replace(/^[-−+]\s*/, '').toLowerCase();
  const component = new RegExp(String.raw`^(${NUMBER})\s*(kg|lbs?|oz|g)\.?\s*`);
  let total = 0;
  let left = rest;
  while (left !== '') {
    const match = component.exec(left);
    const amount = match?.[1] === undefined ? 'unread' : readNumber(match[1]);
    const factor = grams.get((match?.[2] ?? '').replace('lbs', 'lb'));
    if (match === null || typeof amount === 'string' || factor === undefined) {
      return { ok: false, message: typeof amount === 'string' && amount !== 'unread' ? amount : weightHint(text) };
    }
    total += amount * factor;
    left = left.slice(match[0].length);
  }
  return { ok: true, value: negative ? -total : total };
}

function weightHint(text: string): string {
  return `“${text.trim()}” is not a weight. Write 350, 350 g, 1/2 lb or 1 lb 3 oz.`;
}

function readNumber(text: string): number | string {
  const compact = text.trim();
  const mixed = /^(?:(\d+)\s+)?(\d+)\s*\/\s*(\d+)$/.exec(compact);
  if (mixed) {
    const [whole, over, under] = [Number(mixed[1] ?? 0), Number(mixed[2]), Number(mixed[3])];
    return under === 0 ? 'A fraction cannot have 0 below the line.' : whole + over / under;
  }
  if (/^\d{1,3},\d{3}$/.test(compact)) {
    const joined = compact.replace(',', '');
    return `“${compact}” can mean two things. Write ${joined} or ${compact.replace(',', '.')}.`;
  }
  if (/^\d{1,3}([  ]\d{3})+([.,]\d+)?$/.test(compact) || /^(\d+[.,]?\d*|[.,]\d+)$/.test(compact)) {
    return Number(compact.replace(/[  ]/g, '').replace(',', '.'));
  }
  return `“${compact}” is not a number. Write 12.5, 12,5 or 1/2.`;
}

/** A chance in percent, which is never called certain nor out of the question. */
export function formatChance(percent: number): string {
  if (percent >= 99.5) return 'over 99 %';
  return percent < 0.5 ? 'under 1 %' : `${formatNumber(percent, 0)} %`;
}

/** A number with at most `decimals` decimals, of which zeros beyond `minimumDecimals` go, a space between thousands and a
 *  true minus. It rounds what the number is in binary, as the server does where it writes one. */
export function formatNumber(value: number, decimals: number, minimumDecimals = decimals): string {
  const [whole = '', behind = ''] = Math.abs(value).toFixed(decimals).split('.');
  const kept = behind.replace(/0+$/, '').padEnd(minimumDecimals, '0');
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, ' ');
  const text = kept === '' ? grouped : `${grouped}.${kept}`;
  return value < 0 && /[1-9]/.test(text) ? `−${text}` : text;
}

/** A share: one decimal, a second only when it is needed. */
export function formatShare(value: number): string {
  return formatNumber(value, 2, 1);
}

/** A change against a reference: signed, or empty when it rounds to nothing. */
export function formatChange(change: number, decimals = 0): string {
  const rounded = Number(change.toFixed(decimals));
  if (rounded === 0) return '';
  return rounded > 0 ? `+${formatNumber(rounded, decimals)}` : formatNumber(rounded, decimals);
}

/** Shed the binary dust of adding decimals; finer than any scale. */
export function tidy(value: number): number {
  return Math.round(value * 1e6) / 1e6;
}
