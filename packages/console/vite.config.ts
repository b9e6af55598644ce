import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [vue()],
  build: {
    target: 'es2022',
    // Files are served under a policy without data: scripts or styles, so nothing is inlined.
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
  },
})
