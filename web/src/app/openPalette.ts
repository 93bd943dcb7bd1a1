/** Opens the palette once it is there. */
export function openPalette(): void {
  window.dispatchEvent(new Event(OPEN_PALETTE));
}

export const OPEN_PALETTE = 'sapolin:open-palette';
