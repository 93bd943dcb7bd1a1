/** Colour and hatch of an oil: the colour names the kind of fatty acid that makes it what it is, the hatch says solid. */
export function toneOf(group: string): string {
  return `var(--tone-${group})`;
}

/** The SVG fill of the hatch over solid oils; <HatchDefs> must be in the same document. */
export const HATCH = 'url(#sapolin-hatch)';
