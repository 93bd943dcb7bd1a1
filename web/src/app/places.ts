/** The places of the workshop, in the order of the bar. */
export const PLACES = [
  { to: '/', label: 'Today', end: true },
  { to: '/formulas', label: 'Formulas' },
  { to: '/batches', label: 'Batches' },
  { to: '/stock', label: 'Stock' },
  { to: '/guide', label: 'Guide' },
] as const;

/** Those that a device for make day and rack is paired for. */
export const MAKE_AND_RACK = PLACES.filter(({ to }) => ['/', '/batches', '/guide'].includes(to));
