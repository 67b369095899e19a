import { resolve } from 'node:path';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const packages = resolve(import.meta.dirname, '../../packages');

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: {
    alias: {
      '@eager-sieve/core': resolve(packages, 'core/src/index.ts'),
      '@eager-sieve/contracts': resolve(packages, 'contracts/src/index.ts'),
    },
  },
  // Fonts stay files of their own: the content security policy takes no fonts from data addresses.
  build: { target: 'es2023', assetsInlineLimit: 0, sourcemap: false },
});
