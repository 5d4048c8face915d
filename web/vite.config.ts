import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

const server = 'http://127.0.0.1:8350';

export default defineConfig({
	plugins: [tailwindcss(), sveltekit()],
	server: { proxy: { '/api': { target: server, ws: true } } },
	build: { chunkSizeWarningLimit: 900 }
});
