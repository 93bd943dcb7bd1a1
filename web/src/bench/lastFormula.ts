/** Where the browser remembers which formula was open last. */
export const LAST_FORMULA = 'sapolin.last-formula';
