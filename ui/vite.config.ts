import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import tailwindcss from '@tailwindcss/vite';
import babel from '@rolldown/plugin-babel';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

const server = `http://${process.env.ADDR ?? '127.0.0.1:8080'}`;
const outDir = '../internal/web/dist';

/** Writes beside every text file of the build the same compressed: the server sends that, and compresses nothing itself. */
function compressed(): Plugin {
  const visit = (dir: string) => {
    for (const name of readdirSync(dir)) {
      const path = join(dir, name);
      if (statSync(path).isDirectory()) visit(path);
      else if (/\.(js|css|html|svg|json)$/.test(name)) writeFileSync(`${path}.gz`, gzipSync(readFileSync(path), { level: 9 }));
    }
  };
  return { name: 'compressed', apply: 'build', closeBundle: () => visit(outDir) };
}

/** Texts stand in the source in English; this makes messages of a catalogue of them, and leaves all other code as it is. */
const texts = {
  include: /\.tsx?$/,
  exclude: /node_modules/,
  plugins: [['@lingui/babel-plugin-lingui-macro', { stripMessageField: false }]],
  parserOpts: { plugins: ['typescript' as const, 'jsx' as const] },
};

export default defineConfig({
  resolve: { alias: { 'journeyman/language': join(import.meta.dirname, 'src/base/language.ts') } },
  plugins: [babel(texts), react(), tailwindcss(), compressed()],
  build: { outDir, emptyOutDir: false, sourcemap: false },
  // While the front end is worked on, the server answers what is behind it. It takes requests from its own pages only.
  server: { proxy: { '/api': { target: server, changeOrigin: true, headers: { Origin: server } } } },
});
