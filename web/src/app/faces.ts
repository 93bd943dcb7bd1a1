import displayRanges from '@fontsource-variable/bricolage-grotesque/unicode.json';
import display from '@fontsource-variable/bricolage-grotesque/files/bricolage-grotesque-latin-wght-normal.woff2?url';
import displayExtended from '@fontsource-variable/bricolage-grotesque/files/bricolage-grotesque-latin-ext-wght-normal.woff2?url';
import displayVietnamese from '@fontsource-variable/bricolage-grotesque/files/bricolage-grotesque-vietnamese-wght-normal.woff2?url';
import resultRanges from '@fontsource-variable/spline-sans-mono/unicode.json';
import result from '@fontsource-variable/spline-sans-mono/files/spline-sans-mono-latin-wght-normal.woff2?url';
import resultExtended from '@fontsource-variable/spline-sans-mono/files/spline-sans-mono-latin-ext-wght-normal.woff2?url';

const KEPT = 'sapolin.faces';
const AFTER_MS = 1500;

interface Typeface {
  family: string;
  weight: string;
  /** Where each part of it lies, and the characters in it. The first is of use to every screen, the others on demand. */
  parts: { file: string; characters: string }[];
}

const FACES: Typeface[] = [
  {
    family: 'Bricolage Grotesque Variable',
    weight: '200 800',
    parts: [
      { file: display, characters: displayRanges.latin },
      { file: displayExtended, characters: displayRanges['latin-ext'] },
      { file: displayVietnamese, characters: displayRanges.vietnamese },
    ],
  },
  {
    family: 'Spline Sans Mono Variable',
    weight: '300 700',
    parts: [
      { file: result, characters: resultRanges.latin },
      { file: resultExtended, characters: resultRanges['latin-ext'] },
    ],
  },
];

/* Headings and results have typefaces of their own. They are not in the style sheet, which would have them fetched before the answers
   of the first screen. */

/** Set them at once when this browser has them from an earlier visit; tells whether it has. */
export function facesOfEarlierVisit(): boolean {
  const isHere = readKept();
  if (isHere) FACES.forEach((face) => fontFaces(face).forEach((one) => document.fonts.add(one)));
  return isHere;
}

/** Fetch and set them when the first screen of a first visit no longer waits for anything: on a slow network they would hold up its
    answers. */
export function facesAfterFirstScreen(): void {
  setTimeout(() => void allAtOnce().then((areHere) => areHere && keep()), AFTER_MS);
}

/** In one step, because each has the screen laid out anew. Tells whether all could be had; where one could not, the text stands in the
    next best. */
async function allAtOnce(): Promise<boolean> {
  const faces = FACES.map(fontFaces);
  const fetched = await Promise.allSettled(faces.map(([first]) => first?.load()));
  faces.flat().forEach((one) => document.fonts.add(one));
  return fetched.every(({ status }) => status === 'fulfilled');
}

function fontFaces({ family, weight, parts }: Typeface): FontFace[] {
  return parts.map(({ file, characters }) => new FontFace(family, `url(${file})`, { weight, unicodeRange: characters, display: 'swap' }));
}

/* A browser that keeps nothing has them late at every visit; the application starts all the same. */

function readKept(): boolean {
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
