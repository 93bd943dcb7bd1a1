import { join } from 'node:path';

import type { GetModuleInfo, ManualChunkMeta } from 'rollup';
import type { Plugin } from 'vite';

import { FURTHER_DOWN, MAIN, ROUTES } from './places';

/** The parts of the start (src/start/), by the modules that go to each. */
export const PARTS: Record<string, RegExp> = {
  main: /\/web\/src\/(?!start\/)|node_modules\/@fontsource-variable/,
  react: /node_modules\/(react|react-dom|scheduler)\/|commonjsHelpers/,
  mantine: /node_modules\/(@mantine|@floating-ui|clsx|get-nonce|react-remove-scroll|react-style-singleton|react-number-format|tslib|use-)/,
  router: /node_modules\/(react-router|@tanstack|openapi-fetch|idb-keyval|cookie|set-cookie-parser)/,
};

/** The page's own script, with Vite's loader. */
const FIRST = /web\/index\.html|\/src\/start\/(start|pause)\.ts$|vite\/(preload-helper|modulepreload-polyfill)/;

/** What Mantine exports is one long list of other modules. */
const LIST = /@mantine\/(core|hooks|notifications)\/esm\/index\.mjs$/;
const IMPORT = /import\s*\{([^}]*)\}\s*from\s*["']([^"']+)["']/g;

/** Names by the address they are imported from, as written in `code`. */
function namesIn(code: string): [string, string[]][] {
  return [...code.matchAll(IMPORT)].map(([, names = '', from = '']) => [from, names.split(',').map((name) => (name.trim().split(/\s+as\s+/)[0] ?? ''))]);
}

/** The modules that `id` imports; of a list of exports those alone that hold what is named. */
function importsOf(id: string, getModuleInfo: GetModuleInfo): string[] {
  const { importedIds = [], code } = getModuleInfo(id) ?? {};
  return importedIds.flatMap((one) => {
    const library = LIST.exec(one)?.[1];
    if (library === undefined) return [one];
    const named = new Set(namesIn(code ?? '').flatMap(([from, names]) => (from === `@mantine/${library}` ? names : [])));
    return namesIn(getModuleInfo(one)?.code ?? '').flatMap(([from, names]) => (names.some((name) => named.has(name)) ? [join(one, '..', from)] : []));
  });
}

/** Every module that `id` cannot do without, itself included. */
function needs(id: string, getModuleInfo: GetModuleInfo, found = new Set<string>()): Set<string> {
  if (found.has(id)) return found;
  found.add(id);
  for (const imported of importsOf(id, getModuleInfo)) needs(imported, getModuleInfo, found);
  return found;
}

/** Screens that share a module before it is worth a place in the one file of what they share. */
const SEVERAL = 4;

interface Sharing {
  ofMain: Set<string>;
  ofSeveral: Set<string>;
  ofPictures: Set<string>;
}

/** All that `main` needs before it draws, what several screens need beside it, and what of the pictures further down on Design a few
    others show too. */
function sharing(getModuleInfo: GetModuleInfo): Sharing {
  const ofMain = needs(MAIN, getModuleInfo);
  const users = new Map<string, number>();
  for (const screen of getModuleInfo(ROUTES)?.dynamicallyImportedIds ?? []) {
    for (const id of needs(screen, getModuleInfo)) users.set(id, (users.get(id) ?? 0) + 1);
  }
  // What `main` fetches a little later, such as notices, comes with the first screen too, and takes no picture along.
  const later = new Set((getModuleInfo(MAIN)?.dynamicallyImportedIds ?? []).flatMap((id) => [...needs(id, getModuleInfo)]));
  const several = [...users].filter(([id, count]) => (count >= SEVERAL || later.has(id)) && !ofMain.has(id));
  const ofSeveral = new Set(several.map(([id]) => id));
  const ofPictures = [...needs(FURTHER_DOWN, getModuleInfo)].filter((id) => users.has(id) && !ofMain.has(id) && !ofSeveral.has(id));
  return { ofMain, ofSeveral, ofPictures: new Set(ofPictures) };
}

let shared: ReturnType<typeof sharing> | undefined;

/** The file that a module goes to: a part of the start (src/start/), or what many screens share; else as Rollup has it. */
export function fileOf(id: string, { getModuleInfo }: ManualChunkMeta): string | undefined {
  if (FIRST.test(id)) return 'start';
  const opener = /\/src\/start\/(\w+)\.ts$/.exec(id)?.[1];
  if (opener !== undefined && opener in PARTS) return opener;
  shared ??= sharing(getModuleInfo);
  if (shared.ofSeveral.has(id)) return 'shared';
  if (shared.ofPictures.has(id)) return 'pictures';
  return shared.ofMain.has(id) || id.includes('commonjsHelpers') ? Object.keys(PARTS).find((name) => PARTS[name]?.test(id)) : undefined;
}

const ROOT = '<div id="root">';
const STYLE_SHEET = /\s*<link rel="stylesheet"[^>]*>/;

/** The page names the parts, so that all of them are on their way while the first is read. Its style sheet stands behind the
    frame, which has a style of its own and so is painted at once, and before the application, whose own styles come after it; no code runs
    before the sheet is there. */
export function namedInPage(): Plugin {
  return {
    name: 'named-in-page',
    apply: 'build',
    transformIndexHtml: {
      order: 'post',
      handler: (page, { bundle = {} }) => {
        const sheet = STYLE_SHEET.exec(page)?.[0] ?? '';
        const html = page.replace(sheet, '').replace(ROOT, () => `${sheet.trim()}\n    ${ROOT}`);
        const tags = Object.values(bundle)
          .filter((one) => one.type === 'chunk' && (one.name in PARTS || one.moduleIds.includes(MAIN)))
          .map((one) => ({ tag: 'link', attrs: { rel: 'modulepreload', fetchpriority: 'low', href: `/${one.fileName}` }, injectTo: 'head' as const }));
        return { html, tags };
      },
    },
  };
}
