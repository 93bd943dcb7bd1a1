import { readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';

import type { Plugin } from 'vite';

/** Lay every file of the build beside itself, compressed once and for all: the server sends it as it is. */
export function compressed(): Plugin {
  return {
    name: 'compressed',
    apply: 'build',
    writeBundle: async ({ dir: folder = 'dist' }) => {
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
export function fontLicences(): Plugin {
  const families = join(import.meta.dirname, '..', 'node_modules', '@fontsource-variable');
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
