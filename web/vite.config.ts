import react from '@vitejs/plugin-react';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // dist/placeholder.html is committed, so that the program builds without Node.
  build: { emptyOutDir: false, target: 'es2022', assetsInlineLimit: 0 },
  test: {
    testTimeout: 60_000, // a machine that does other things as well takes longer; what hangs is found all the same
    isolate: false, // a page and its modules for each file took two thirds of the time; what a test leaves behind is taken away (tidy.ts)
    setupFiles: ['./src/ui/tidy.ts'],
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8090' } },
});
