import tailwind from '@tailwindcss/vite'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

// The API is served by `gavrik demo` or `gavrik serve` beside `vite`.
export default defineConfig({
  plugins: [vue(), tailwind()],
  server: { proxy: { '/api': 'http://127.0.0.1:4280' } },
})
