import react from '@vitejs/plugin-react';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [react({ babel: { plugins: ['babel-plugin-react-compiler'] } })],
  build: { target: 'es2022', reportCompressedSize: false, chunkSizeWarningLimit: 800, assetsInlineLimit: 0 },
  server: { proxy: { '/api': process.env.SAPOLIN_API ?? 'http://127.0.0.1:8719' } },
  test: { include: ['src/**/*.test.ts'] },
});
