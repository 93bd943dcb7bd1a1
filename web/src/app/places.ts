/** The places of the workshop, in the order of the bar. */
export const PLACES = [
  { to: '/', label: 'Today', end: true },
  { to: '/formulas', label: 'Formulas' },
  { to: '/batches', label: 'Batches' },
  { to: '/stock', label: 'Stock' },
  { to: '/guide', label: 'Guide' },
] as const;
