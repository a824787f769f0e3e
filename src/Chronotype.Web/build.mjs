// Builds what browsers are served: `node build.mjs OUT`. Everything comes from this repository and its locked packages.
import { execFileSync } from 'node:child_process';
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';

const out = resolve(process.argv[2]);
const modules = resolve(import.meta.dirname ?? '.', '../../node_modules');

rmSync(out, { recursive: true, force: true });
mkdirSync(join(out, 'js'), { recursive: true });
mkdirSync(join(out, 'fonts'), { recursive: true });

for (const [family, axis] of [['archivo', 'wdth'], ['spline-sans-mono', 'wght']]) {
  for (const range of ['latin', 'latin-ext']) {
    const file = `${family}-${range}-${axis}-normal.woff2`;
    cpSync(join(modules, '@fontsource-variable', family, 'files', file), join(out, 'fonts', file));
  }
}
cpSync(join(modules, 'htmx.org/dist/htmx.min.js'), join(out, 'js/htmx.min.js'));
cpSync(join(modules, 'tus-js-client/dist/tus.min.js'), join(out, 'js/tus.min.js'));
cpSync(join(modules, 'client-zip/index.js'), join(out, 'js/client-zip.js'));
cpSync(join(modules, 'fflate/esm/browser.js'), join(out, 'js/fflate.js'));
cpSync(join(modules, 'openseadragon/build/openseadragon/openseadragon.min.js'), join(out, 'js/openseadragon.min.js'));
for (const file of ['pdf.min', 'pdf.worker.min']) cpSync(join(modules, 'pdfjs-dist/build', `${file}.mjs`), join(out, 'js', `${file}.js`));
// Some documents name typefaces and letters that every reader is to have.
for (const folder of ['cmaps', 'standard_fonts']) cpSync(join(modules, 'pdfjs-dist', folder), join(out, 'pdf', folder), { recursive: true });
// A page without a map of imports names its modules by their place.
mkdirSync(join(out, 'js/three/utils'), { recursive: true });
for (const file of ['three.module.js', 'three.core.js']) cpSync(join(modules, 'three/build', file), join(out, 'js/three', file));
for (const file of ['loaders/GLTFLoader.js', 'controls/OrbitControls.js', 'utils/BufferGeometryUtils.js', 'utils/SkeletonUtils.js']) {
  const text = readFileSync(join(modules, 'three/examples/jsm', file), 'utf8');
  const up = file.startsWith('utils/') ? '../' : './';
  const to = join(out, 'js/three', file.startsWith('utils/') ? file : file.split('/').pop());
  writeFileSync(to, text.replaceAll("from 'three'", `from '${up}three.module.js'`).replaceAll("from '../utils/", "from './utils/"));
}
for (const file of readdirSync('Pages', { recursive: true }).filter(f => f.endsWith('.js'))) {
  // Each keeps its folder, as two screens may name theirs alike.
  cpSync(join('Pages', file), join(out, 'js', file));
}
cpSync('Styles/icon.svg', join(out, 'icon.svg'));
cpSync('Styles/noscript.css', join(out, 'noscript.css'));
execFileSync(process.execPath, [
  join(modules, '@tailwindcss/cli/dist/index.mjs'), '--input', 'Styles/app.css', '--output', join(out, 'app.css'), '--minify',
], { stdio: ['ignore', 'inherit', 'pipe'] });
