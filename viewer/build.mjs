// node build.mjs page FILE: the page without data, all in one file.
// node build.mjs tests FOLDER: the unit tests, as modules for node --test.
import { build } from 'esbuild';
import { mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const here = dirname(fileURLToPath(import.meta.url));
const [what, out] = process.argv.slice(2);

async function page(file) {
  const bundle = await build({
    entryPoints: [join(here, 'src/main.ts')],
    bundle: true,
    minify: true,
    format: 'iife',
    target: 'es2021',
    charset: 'ascii',
    legalComments: 'none',
    write: false,
    logLevel: 'warning',
  });
  // Nothing in the script may end it.
  const script = bundle.outputFiles[0].text.replaceAll('</script', '<\\/script');
  const style = readFileSync(join(here, 'src/style.css'), 'utf8');
  const html = readFileSync(join(here, 'src/page.html'), 'utf8')
    .replace('/*STYLE*/', () => style)
    .replace('/*SCRIPT*/', () => script);
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(file, html);
}

async function tests(folder) {
  rmSync(folder, { recursive: true, force: true });
  await build({
    entryPoints: readdirSync(join(here, 'test'))
      .filter((name) => name.endsWith('.test.ts'))
      .map((name) => join(here, 'test', name)),
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node18',
    external: ['playwright-core', 'axe-core'],
    outdir: folder,
    outExtension: { '.js': '.mjs' },
    logLevel: 'warning',
  });
}

if (what === 'page' && out) await page(out);
else if (what === 'tests' && out) await tests(out);
else throw new Error('expected: page FILE, or tests FOLDER');
