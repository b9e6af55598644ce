import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

export default defineConfig({
  // White space between elements is text here: a line break in a template is a blank on the page.
  plugins: [vue({ template: { compilerOptions: { whitespace: 'preserve' } } })],
  build: {
    target: 'es2022',
    // Files are served under a policy without data: scripts or styles, so nothing is inlined.
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
  },
})
