export function timeOf(at: string): string {
  return new Date(at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });
}

/** The time of today, or the day with it. */
export function whenOf(at: string): string {
  return new Date(at).toDateString() === new Date().toDateString() ? timeOf(at) : dayAndTimeOf(at);
}

export function dayAndTimeOf(at: string): string {
  return new Date(at).toLocaleString([], { weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });
}
