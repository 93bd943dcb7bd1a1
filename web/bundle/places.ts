import { join } from 'node:path';

const SRC = join(import.meta.dirname, '..', 'src');

/** The module that draws the application, and the one that holds its routes. */
export const MAIN = join(SRC, 'main.tsx');
export const ROUTES = join(SRC, 'app', 'routes.tsx');

/** What stands further down on Design, and is fetched after its first drawing. */
export const FURTHER_DOWN = join(SRC, 'bench', 'furtherDown.ts');
