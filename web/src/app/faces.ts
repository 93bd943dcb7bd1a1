const KEPT = 'sapolin.faces';
const AFTER_MS = 1500;
const FACES = ["700 1em 'Bricolage Grotesque Variable'", "1em 'Spline Sans Mono Variable'"];

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
    setTimeout(() => void fetched().then(set).then(keep), AFTER_MS);
  }
}

/** Every text is laid out anew when its typeface comes: once for both, not for each. */
async function fetched(): Promise<void> {
  // Where one of them cannot be had, the text stands in the next best.
  await Promise.allSettled(FACES.map((face) => document.fonts.load(face)));
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
