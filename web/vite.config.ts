import react from '@vitejs/plugin-react';
import { defineConfig } from 'vitest/config';

import { fileOf, namedInPage } from './bundle/chunks';
import { compiler } from './bundle/compiler';
import { compressed, fontLicences } from './bundle/files';
import { screensNamed } from './bundle/screens';

export default defineConfig({
  // The compiler only makes screens quicker; without it their tests start in a third of the time.
  plugins: [react(process.env.VITEST ? {} : { babel: { plugins: [compiler] } }), fontLicences(), namedInPage(), screensNamed(), compressed()],
  build: {
    target: 'es2022',
    reportCompressedSize: false,
    chunkSizeWarningLimit: 800,
    assetsInlineLimit: 0,
    // One sheet of 28 kB and few files: on a slow network each request costs more than what it carries.
    cssCodeSplit: false,
    rollupOptions: { output: { manualChunks: fileOf, onlyExplicitManualChunks: true } },
  },
  server: { proxy: { '/api': process.env.SAPOLIN_API ?? 'http://127.0.0.1:8719' } },
  test: {
    minWorkers: 2,
    maxWorkers: 2,
    // In contexts rather than threads of their own: jsdom and the libraries are loaded once for all files of a worker.
    pool: 'vmThreads',
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
