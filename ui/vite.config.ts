import { svelte } from '@sveltejs/vite-plugin-svelte'
import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'vitest/config'

export default defineConfig({
    plugins: [tailwindcss(), svelte()],
    build: {
        // The content policy lets fonts and pictures come from files of this server only, so nothing is inlined.
        assetsInlineLimit: 0,
        chunkSizeWarningLimit: 1500
    },
    server: { proxy: { '/api': 'http://127.0.0.1:8137' } },
    test: { include: ['src/**/*.test.ts'] }
})
