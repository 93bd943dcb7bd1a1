import { clockTime, dateTime } from '../design/dates';

export function timeOf(at: string): string {
  return clockTime(at);
}

/** The time of today, or the day with it. */
export function whenOf(at: string): string {
  return new Date(at).toDateString() === new Date().toDateString() ? timeOf(at) : dayAndTimeOf(at);
}

export function dayAndTimeOf(at: string): string {
  return dateTime(at);
}
