import type { ReactNode } from 'react';

import classes from './Pages.module.css';

/** A bar seen from the front, with its top. */
const BAR = (
  <>
    <path d="M10 20 L20 10 H70 L60 20 Z" />
    <path d="M10 20 H60 V46 H10 Z" />
    <path d="M60 20 L70 10 V36 L60 46 Z" />
  </>
);
const BOTTLE = <path d="M32 6 H44 V14 L52 22 V50 H24 V22 L32 14 Z" />;
const JAR = <path d="M20 10 H56 V14 H60 V50 H16 V14 H20 Z" />;
const BOWL = <path d="M10 20 H66 C66 44 54 50 38 50 C22 50 10 44 10 20 Z" />;

const dots = (points: [number, number][], r = 1.6) => points.map(([x, y]) => <circle key={`${x}-${y}`} cx={x} cy={y} r={r} fill="currentColor" stroke="none" />);

const PICTURES: Record<string, ReactNode> = {
  ash: <>{BAR}{dots([[22, 16], [30, 13], [38, 17], [45, 13], [52, 16], [60, 13], [27, 18], [57, 18], [34, 15]], 1.3)}</>,
  gel_ring: <>{BAR}<ellipse cx="35" cy="33" rx="16" ry="8" /></>,
  rivers: <>{BAR}<path d="M14 26 C22 22 24 34 32 29 S44 24 56 31 M14 38 C24 34 30 42 40 37 S50 36 57 41" /></>,
  pockets: <>{BAR}<path d="M24 30 q4 -7 8 0 q0 5 -4 5 t-4 -5 M42 36 q3 -6 6 0 q0 4 -3 4 t-3 -4" /></>,
  bubbles: <>{BAR}<g><circle cx="20" cy="28" r="2.5" /><circle cx="31" cy="36" r="3.5" /><circle cx="43" cy="29" r="2" /><circle cx="52" cy="38" r="3" /><circle cx="24" cy="40" r="1.6" /></g></>,
  separation: <>{BOWL}<path d="M12 28 C22 25 30 31 38 28 S56 25 65 28 M16 24 h6 M30 24 h8 M48 24 h8" /></>,
  crumble: <><path d="M10 20 L20 10 H66 L58 20 M10 20 H58 L54 27 L59 32 L52 38 L56 46 H10 Z M66 10 L62 24" />{dots([[64, 40], [68, 45], [61, 46], [70, 38]], 1.8)}</>,
  colour_shift: <>{BAR}<path d="M38 20 V46 M42 20 V46 M46 20 V46 M50 20 V46 M54 20 V46" /></>,
  spots: <>{BAR}{dots([[20, 28], [34, 40], [46, 27], [53, 36], [28, 34]], 2.6)}</>,
  sticky: <>{BAR}<path d="M10 46 q3 6 -2 8 M22 46 q2 5 0 8 M36 46 q-2 5 1 8 M50 46 q3 5 0 8" /></>,
  cracks: <>{BAR}<path d="M15 16 L28 14 L36 17 L48 12 L66 14" strokeWidth="2.4" /></>,
  volcano: <><path d="M10 26 H60 V48 H10 Z" /><path d="M12 26 C18 8 52 4 58 26 M58 26 q8 4 6 14 M12 26 q-6 5 -4 12" /></>,
  seized: <>{BOWL}<path d="M18 20 L24 10 L34 14 L42 6 L52 12 L58 20" /></>,
  no_trace: <>{BOWL}<path d="M14 28 q6 -4 12 0 t12 0 t12 0 t12 0 M18 36 q6 -4 12 0 t12 0 t12 0" /></>,
  scorched: <>{JAR}<path d="M17 28 H59 M20 34 H56 M22 40 H54 M24 45 H52 M30 22 q-3 -5 1 -9 M44 22 q-3 -5 1 -9" /></>,
  zaps: <>{BAR}<path d="M38 18 L28 34 H36 L32 46 L46 29 H37 Z" fill="currentColor" /></>,
  little_lather: <><path d="M12 40 q26 -16 52 0 v8 H12 Z" /><g><circle cx="30" cy="24" r="4" /><circle cx="46" cy="20" r="3" /></g></>,
  slimy: <><path d="M14 8 H62 M14 50 H62" strokeWidth="4" /><path d="M22 10 C20 24 26 34 23 48 M36 10 C40 24 33 34 37 48 M52 10 C49 24 55 34 52 48" /></>,
  drying_skin: <><path d="M20 50 V26 C20 14 56 14 56 26 V50" /><path d="M28 30 l5 4 l-4 5 l6 5 M44 26 l-4 5 l6 4 l-4 7" /></>,
  melts_fast: <><path d="M22 34 C24 24 48 22 54 34" /><path d="M8 44 C14 34 62 34 68 44 C60 52 16 52 8 44 Z" /></>,
  scent_gone: <>{BAR}<path d="M30 8 q-4 -3 0 -6 M42 8 q-4 -3 0 -6 M24 2 L50 10" /></>,
  sweat: <>{BAR}<path d="M22 25 q4 -6 6 0 q0 4 -3 4 t-3 -4 M38 30 q4 -6 6 0 q0 4 -3 4 t-3 -4 M28 38 q3 -5 5 0 q0 3 -2.500 3 t-2.500 -3 M50 24 q3 -5 5 0 q0 3 -2.500 3 t-2.500 -3" /></>,
  muddy: <>{BAR}<path d="M16 34 C20 22 40 22 40 32 C40 42 24 42 24 34 C24 28 34 28 34 33 M44 40 C48 28 58 30 56 38" /></>,
  cloudy_liquid: <>{BOTTLE}{dots([[30, 28], [36, 34], [44, 30], [32, 40], [42, 42], [38, 26], [47, 38], [29, 46], [45, 47]], 1.4)}</>,
  paste_separates: <>{JAR}<path d="M16 28 q6 -4 11 0 t11 0 t11 0 t11 0 M22 36 h8 M36 40 h10 M24 44 h6" /></>,
  thin_liquid: <>{BOTTLE}<path d="M24 34 H52 M54 12 q10 6 8 22 M50 6 q4 2 4 6" /></>,
};

/** What a fault looks like, drawn. */
export function FaultPicture({ symptom }: { symptom: string }) {
  return (
    <svg viewBox="0 0 76 56" className={classes.picture} fill="none" stroke="currentColor" strokeWidth="1.5" strokeLinejoin="round" strokeLinecap="round" aria-hidden>
      {PICTURES[symptom] ?? BAR}
    </svg>
  );
}
