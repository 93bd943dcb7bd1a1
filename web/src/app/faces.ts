const KEPT = 'sapolin.faces';
const AFTER_MS = 1500;

/**
 * Set headings and results in typefaces of their own: at once when this browser has them from an earlier visit, else after the
 * first screen, whose answers they would hold up on a slow network.
 */
export function ownFaces(isDrawn: boolean): void {
  const set = () => {
    document.documentElement.dataset.faces = 'own';
  };
  if (localStorage.getItem(KEPT) !== null) set();
  else if (isDrawn) {
    setTimeout(() => {
      set();
      localStorage.setItem(KEPT, 'here');
    }, AFTER_MS);
  }
}
