/** Dates and times as this browser's language writes them. A formatter costs much to make, so each is made once. */

const made = new Map<string, Intl.DateTimeFormat>();

function inStyle(options: Intl.DateTimeFormatOptions): (at: Date | string | number) => string {
  const key = JSON.stringify(options);
  return (at) => {
    const format = made.get(key) ?? new Intl.DateTimeFormat([], options);
    made.set(key, format);
    return format.format(new Date(at));
  };
}

/** The day has 24 hours on every paper and in every answer of the server, so here too. */
const MINUTE = { hour: '2-digit', minute: '2-digit', hourCycle: 'h23' } as const;
const DAY = { day: 'numeric', month: 'short' } as const;

/** 09:41, without a formatter: the first one of a page costs as much as all else that its first screen writes. */
export function clockTime(at: Date | string | number): string {
  const time = new Date(at);
  return [time.getHours(), time.getMinutes()].map((part) => String(part).padStart(2, '0')).join(':');
}
/** 4 Mar */
export const shortDate = inStyle(DAY);
/** Mon 4 Mar */
export const weekdayDate = inStyle({ weekday: 'short', ...DAY });
/** 4 Mar, 09:41 */
export const shortDateTime = inStyle({ ...DAY, ...MINUTE });
/** Mon 4 Mar, 09:41 */
export const dateTime = inStyle({ weekday: 'short', ...DAY, ...MINUTE });
/** 4 Mar 2031 */
export const fullDate = inStyle({ ...DAY, year: 'numeric' });
/** Monday 4 March */
export const longDate = inStyle({ weekday: 'long', day: 'numeric', month: 'long' });
