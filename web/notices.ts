import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Plugin } from 'vite';

/** Writes the licences of all that is bundled into notices-web.txt; a package without a licence fails the build. */
export const notices = (): Plugin => ({
  name: 'notices',
  generateBundle(_, bundle) {
    const packages = new Map<string, string>();
    for (const file of Object.values(bundle)) {
      if (file.type !== 'chunk') continue;
      for (const module of Object.keys(file.modules)) {
        const dir = packageOf(module);
        if (dir && !packages.has(dir)) packages.set(dir, noticeOf(dir));
      }
    }
    this.emitFile({ type: 'asset', fileName: 'notices-web.txt', source: [...packages.values()].sort().join('\n') });
  },
});

/** The folder of the package that a module is of; nothing for what is our own. */
function packageOf(module: string): string | undefined {
  if (!module.includes('node_modules')) return undefined;
  let dir = dirname(module.replace(/^\0/, '').replace(/\?.*$/, ''));
  while (!/node_modules\/(@[^/]+\/)?[^/]+$/.test(dir)) dir = dirname(dir);
  return existsSync(join(dir, 'package.json')) ? dir : undefined;
}

function noticeOf(dir: string): string {
  const { name, version, license } = JSON.parse(readFileSync(join(dir, 'package.json'), 'utf8'));
  const texts = readdirSync(dir).filter((f) => /^(licen[cs]e|copying|notice)/i.test(f));
  if (!license && !texts.length) throw new Error(`${name} says no licence`);
  return [`== ${name} ${version} (${license ?? 'see below'})`, ...texts.map((f) => readFileSync(join(dir, f), 'utf8').trim())].join('\n');
}
