import { defineConfig } from 'vite'

/** The command line in one file: one that has to find and read hundreds of files takes twice as long to begin. The service it may start stays what it is. */
export default defineConfig({
  build: {
    ssr: 'src/program.ts',
    target: 'node20',
    outDir: 'dist',
    emptyOutDir: false,
    rollupOptions: { output: { entryFileNames: 'bathyscribe.js' } },
  },
  ssr: { noExternal: true, external: ['@bathyscribe/service'] },
})
