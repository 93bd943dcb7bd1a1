import { readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';

import react from '@vitejs/plugin-react';
import type { GetModuleInfo, ManualChunkMeta } from 'rollup';
import type { Plugin } from 'vite';
import { defineConfig } from 'vitest/config';

import { ASKS } from './src/app/asks';

const ROUTES = join(import.meta.dirname, 'src', 'app', 'routes.tsx');
const MAIN = join(import.meta.dirname, 'src', 'main.tsx');

/** Lay every file of the build beside itself, compressed once and for all: the server sends it as it is. */
function compressed(): Plugin {
  let folder = 'dist';
  return {
    name: 'compressed',
    apply: 'build',
    configResolved: (config) => {
      folder = join(config.root, config.build.outDir);
    },
    closeBundle: async () => {
      const names = await readdir(folder, { recursive: true });
      for (const name of names.filter((one) => /\.(js|css|html|svg)$/.test(one))) {
        const content = await readFile(join(folder, name));
        const quality = { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } };
        await writeFile(join(folder, `${name}.br`), brotliCompressSync(content, quality));
        await writeFile(join(folder, `${name}.gz`), gzipSync(content, { level: 9 }));
      }
    },
  };
}

/** The typefaces' licence asks to go wherever they go: beside the built fonts, one file for each family. */
function fontLicences(): Plugin {
  const families = join(import.meta.dirname, 'node_modules', '@fontsource-variable');
  return {
    name: 'font-licences',
    apply: 'build',
    generateBundle: async function () {
      for (const family of await readdir(families)) {
        const source = await readFile(join(families, family, 'LICENSE'), 'utf8');
        this.emitFile({ type: 'asset', fileName: `assets/${family}-LICENSE.txt`, source });
      }
    },
  };
}

const PARTS: Record<string, RegExp> = {
  react: /node_modules\/(react|react-dom|scheduler)\//,
  mantine: /node_modules\/(@mantine|@floating-ui|clsx|react-remove-scroll|react-number-format|use-)/,
  router: /node_modules\/(react-router|@tanstack|openapi-fetch|idb-keyval|cookie|set-cookie-parser)/,
};

/** All that `main` needs before it draws. */
const ofMain = new Set<string>();
function take(id: string, getModuleInfo: GetModuleInfo): void {
  if (ofMain.has(id)) return;
  ofMain.add(id);
  for (const imported of getModuleInfo(id)?.importedIds ?? []) take(imported, getModuleInfo);
}

/** The part of the start (src/start/) that a module belongs to; none for what only a later screen needs. */
function partOfStart(id: string, { getModuleInfo }: ManualChunkMeta): string | undefined {
  const opener = /\/src\/start\/(\w+)\.ts$/.exec(id)?.[1];
  if (opener !== undefined && opener in PARTS) return opener;
  take(MAIN, getModuleInfo);
  return ofMain.has(id) ? Object.keys(PARTS).find((name) => PARTS[name]?.test(id)) : undefined;
}

/** The page names the parts, so that all of them are on their way while the first is read. */
function namedInPage(): Plugin {
  return {
    name: 'named-in-page',
    apply: 'build',
    transformIndexHtml: {
      order: 'post',
      handler: (_, { bundle = {} }) =>
        Object.values(bundle)
          .filter((one) => one.type === 'chunk' && (one.name in PARTS || one.moduleIds.includes(MAIN)))
          .map((one) => ({ tag: 'link', attrs: { rel: 'modulepreload', fetchpriority: 'low', href: `/${one.fileName}` }, injectTo: 'head' as const })),
    },
  };
}

/** A route with its screen, as it is written in the routes. */
const LAZY_ROUTE = /(?:index: true|path: '([^']*)'),[^'\n]*(?:\n[^'\n]*)?import\('([^']+)'\)/g;

/** Which files each screen needs beside those of the start, and what it asks for first: the server sends this with the page, so
    that nothing has to wait for the code that would have asked for it. */
function screensNamed(): Plugin {
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
        const source = await readFile(ROUTES, 'utf8');
        const screens = [...source.matchAll(LAZY_ROUTE)].flatMap(([, path = '', module = '']) => {
          const id = `${join(ROUTES, '..', module)}.tsx`;
          const chunk = chunks.find((one) => one.moduleIds.includes(id));
          return chunk === undefined ? [] : [{ path, files: [...needed(chunk.fileName, new Set())], asks: ASKS[path] ?? [] }];
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

export default defineConfig({
  // The compiler only makes screens quicker; without it their tests start in a third of the time.
  plugins: [react(process.env.VITEST ? {} : { babel: { plugins: ['babel-plugin-react-compiler'] } }), fontLicences(), namedInPage(), screensNamed(), compressed()],
  build: {
    target: 'es2022',
    reportCompressedSize: false,
    chunkSizeWarningLimit: 800,
    assetsInlineLimit: 0,
    // One sheet of 28 kB and few files: on a slow network each request costs more than what it carries.
    cssCodeSplit: false,
    rollupOptions: { output: { experimentalMinChunkSize: 3_500, manualChunks: partOfStart } },
  },
  server: { proxy: { '/api': process.env.SAPOLIN_API ?? 'http://127.0.0.1:8719' } },
  test: {
    minWorkers: 2,
    maxWorkers: 2,
    pool: 'threads',
    projects: [
      { extends: true, test: { name: 'rules', include: ['src/**/*.test.ts'] } },
      {
        extends: true,
        test: {
          name: 'screens',
          include: ['src/**/*.test.tsx'],
          environment: 'jsdom',
          globalSetup: 'src/testing/server.ts',
          setupFiles: 'src/testing/setup.ts',
          testTimeout: 40_000,
        },
      },
    ],
  },
});
