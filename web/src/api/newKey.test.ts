import { afterEach, expect, test, vi } from 'vitest';

import { newKey } from './newKey';

afterEach(() => vi.unstubAllGlobals());

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/;

test('a key is a UUID, and another each time, also where the browser keeps randomUUID to itself', () => {
  const withIt = [newKey(), newKey()];
  vi.stubGlobal('crypto', { getRandomValues: (bytes: Uint8Array) => bytes.map(() => Math.floor(Math.random() * 256)) });
  const without = Array.from({ length: 50 }, newKey);
  for (const key of [...withIt, ...without]) expect(key).toMatch(UUID);
  expect(new Set([...withIt, ...without]).size).toBe(52);
});
