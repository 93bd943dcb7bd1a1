/** Sapolin's few marks, drawn on a 16-unit grid. */

export function HoldIcon({ locked }: { locked: boolean }) {
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden fill="none" stroke="currentColor" strokeWidth="1.5">
      <path d={locked ? 'M5 7.5V5a3 3 0 0 1 6 0v2.5' : 'M5 7.5V4.5a3 3 0 0 1 5.8-1'} />
      <rect x="3.5" y="7.5" width="9" height="6.5" rx="1.5" fill={locked ? 'currentColor' : 'none'} />
    </svg>
  );
}

export function MoreIcon() {
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden fill="currentColor">
      <circle cx="8" cy="3.2" r="1.4" />
      <circle cx="8" cy="8" r="1.4" />
      <circle cx="8" cy="12.8" r="1.4" />
    </svg>
  );
}

export function UndoIcon({ flip = false }: { flip?: boolean }) {
  return (
    <svg
      width="18"
      height="18"
      viewBox="0 0 16 16"
      aria-hidden
      fill="none"
      stroke="currentColor"
      strokeWidth="1.5"
      strokeLinecap="round"
      strokeLinejoin="round"
      style={flip ? { transform: 'scaleX(-1)' } : undefined}
    >
      <path d="M6 3 2.8 6.2 6 9.4M3 6.2h6.4a3.5 3.5 0 0 1 0 7H6.5" />
    </svg>
  );
}

export function ThemeIcon() {
  return (
    <svg width="18" height="18" viewBox="0 0 16 16" aria-hidden>
      <circle cx="8" cy="8" r="5.7" fill="none" stroke="currentColor" strokeWidth="1.4" />
      <path d="M8 2.3a5.7 5.7 0 0 1 0 11.4Z" fill="currentColor" />
    </svg>
  );
}
