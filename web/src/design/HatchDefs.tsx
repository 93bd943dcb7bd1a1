/** The one hatch that marks oils solid at room temperature, for every drawing on the page. */
export function HatchDefs() {
  return (
    <svg width="0" height="0" aria-hidden style={{ position: 'absolute' }}>
      <defs>
        <pattern id="sapolin-hatch" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="7" stroke="var(--hatch)" strokeWidth="2" />
        </pattern>
      </defs>
    </svg>
  );
}
