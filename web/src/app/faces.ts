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
  if (isHere()) set();
  else if (isDrawn) {
    setTimeout(() => {
      set();
      keep();
    }, AFTER_MS);
  }
}

/* A browser that keeps nothing has them late at every visit; the application starts all the same. */

function isHere(): boolean {
  try {
    return localStorage.getItem(KEPT) !== null;
  } catch {
    return false;
  }
}

function keep(): void {
  try {
    localStorage.setItem(KEPT, 'here');
  } catch {
    // Late again next time.
  }
}
