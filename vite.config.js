import { defineConfig } from 'vite';
import laravel from 'laravel-vite-plugin';

export default defineConfig({
    plugins: [laravel({ input: ['resources/scss/app.scss', 'resources/scss/report.scss', 'resources/js/app.js'], refresh: false })],
    build: { assetsInlineLimit: 0 },
    css: { preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ['import', 'global-builtin', 'color-functions'] } } },
});
