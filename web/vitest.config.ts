import { fileURLToPath, URL } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url))

// The tests lie with the others, outside this folder; what they import is found from here.
export default defineConfig({
  plugins: [vue()],
  root: here('..'),
  resolve: {
    alias: {
      '@': here('./src'),
      '@vue/test-utils': here('./node_modules/@vue/test-utils'),
      vitest: here('./node_modules/vitest'),
      vue: here('./node_modules/vue'),
      '@vueuse/core': here('./node_modules/@vueuse/core'),
    },
  },
  server: { fs: { allow: [here('..')] } },
  test: { include: ['tests/web/**/*.test.ts'], environment: 'happy-dom' },
})
