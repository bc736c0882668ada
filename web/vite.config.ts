import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { notices } from './notices.ts';
import { packed } from './packed.ts';
import { words } from './words.ts';

/** What every page stands on, in one file: it packs better than in many, and stays the same when the screens change. */
const ground =
  /node_modules\/(react|react-dom|scheduler|@tanstack\/[\w-]+|i18next|openapi-fetch|use-sync-external-store|react-resizable-panels)\//;

export default defineConfig({
  plugins: [react(), words(), notices(), packed()],
  build: {
    target: 'es2022',
    chunkSizeWarningLimit: 1600,
    rollupOptions: {
      input: ['index.html', 'docs.html'],
      output: { codeSplitting: { groups: [{ name: 'ground', test: ground }] } },
    },
  },
});
