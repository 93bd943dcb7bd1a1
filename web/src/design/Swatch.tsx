import { HATCH, toneOf } from './tones';

/** A small square of an oil's colour and hatch. */
export function Swatch({ group, hard }: { group: string; hard: boolean }) {
  return (
    <svg width="20" height="20" aria-hidden>
      <rect x="0.5" y="0.5" width="19" height="19" rx="4" fill={toneOf(group)} />
      {hard && <rect x="0.5" y="0.5" width="19" height="19" rx="4" fill={HATCH} />}
      <rect x="0.5" y="0.5" width="19" height="19" rx="4" fill="none" stroke="var(--line-strong)" />
    </svg>
  );
}
