import { readFile } from 'node:fs/promises';
import { join } from 'node:path';

import type { Plugin } from 'vite';

import { ASKS } from '../src/app/asks';
import { PARTS } from './chunks';
import { MAIN, ROUTES } from './places';

/** A route with its screen, as it is written in the routes. */
const LAZY_ROUTE = /(?:index: true|path: '([^']*)'),[^'\n]*(?:\n[^'\n]*)?import\('([^']+)'\)/g;

/** Which files each screen needs beside those of the start, and what it asks for first: the server sends this with the page, so
    that nothing has to wait for the code that would have asked for it. The style sheet is named first: nothing of the
    application is painted before it is there. */
export function screensNamed(): Plugin {
  return {
    name: 'screens-named',
    apply: 'build',
    generateBundle: {
      order: 'post',
      handler: async function (_, bundle) {
        const chunks = Object.values(bundle).filter((one) => one.type === 'chunk');
        const atStart = new Set(chunks.filter((one) => one.name in PARTS || one.moduleIds.includes(MAIN)).map((one) => one.fileName));
        const needed = (file: string, found: Set<string>): Set<string> => {
          if (atStart.has(file) || found.has(file)) return found;
          found.add(file);
          for (const next of chunks.find((one) => one.fileName === file)?.imports ?? []) needed(next, found);
          return found;
        };
        const styles = Object.keys(bundle).filter((name) => name.endsWith('.css'));
        const source = await readFile(ROUTES, 'utf8');
        const screens = [...source.matchAll(LAZY_ROUTE)].flatMap(([, path = '', module = '']) => {
          const id = `${join(ROUTES, '..', module)}.tsx`;
          const chunk = chunks.find((one) => one.moduleIds.includes(id));
          return chunk === undefined ? [] : [{ path, files: [...styles, ...needed(chunk.fileName, new Set())], asks: ASKS[path] ?? [] }];
        });
        const written = source.match(/\blazy: async/g)?.length;
        const read = [...source.matchAll(LAZY_ROUTE)].length;
        if (read !== written) throw new Error(`${read} of ${written} routes of routes.tsx could be read`);
        const missing = Object.keys(ASKS).filter((path) => screens.every((one) => one.path !== path));
        if (missing.length > 0) throw new Error(`asks.ts names no screen of the routes: ${missing.join(', ')}`);
        this.emitFile({ type: 'asset', fileName: 'screens.json', source: JSON.stringify(screens, null, 1) });
      },
    },
  };
}
