import tailwind from '@tailwindcss/vite'
import vue from '@vitejs/plugin-vue'
import { defineConfig, loadEnv } from 'vite'

// The API is served by `gavrik demo` or `gavrik serve` beside `vite`; see `make watch`.
export default defineConfig(() => {
  const listen = loadEnv('development', '.', 'GAVRIK_').GAVRIK_LISTEN ?? '127.0.0.1:4280'
  return {
    plugins: [vue(), tailwind()],
    server: { proxy: { '/api': { target: `http://${listen}`, changeOrigin: false } } },
  }
})
