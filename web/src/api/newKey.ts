const HEX = 16;
const BYTES = 16;

/** A key that nobody else makes, for something sent once and perhaps again (UUID version 4). */
export function newKey(): string {
  // Where a page was not opened through TLS or on the machine itself, browsers keep randomUUID to themselves.
  if ('randomUUID' in crypto) return crypto.randomUUID();
  const bytes = (crypto as Crypto).getRandomValues(new Uint8Array(BYTES));
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40;
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  const hex = Array.from(bytes, (byte) => byte.toString(HEX).padStart(2, '0')).join('');
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-');
}
