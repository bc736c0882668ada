import { brotliCompressSync, constants, gzipSync } from 'node:zlib';
import type { Plugin, Rollup } from 'vite';

/** What a browser loads of scripts until the Pair station can be drawn, in bytes of brotli. */
const MOST = 180_000;

const brotli = (text: string | Uint8Array) =>
  brotliCompressSync(text, { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } });

/** Packs what is built once, in brotli and gzip, beside the files; and fails where the first paint of Pair takes too much. */
export const packed = (): Plugin => ({
  name: 'packed',
  enforce: 'post',
  generateBundle: {
    order: 'post',
    handler(_, bundle) {
      const sizes = new Map<string, number>();
      for (const [name, file] of Object.entries(bundle)) {
        if (!/\.(js|css|svg)$/.test(name)) continue;
        const text = file.type === 'chunk' ? file.code : file.source;
        const small = brotli(text);
        sizes.set(name, small.length);
        this.emitFile({ type: 'asset', fileName: `${name}.br`, source: small });
        this.emitFile({ type: 'asset', fileName: `${name}.gz`, source: gzipSync(text, { level: 9 }) });
      }
      const first = needed(bundle);
      const bytes = first.reduce((sum, name) => sum + (sizes.get(name) ?? 0), 0);
      this.info(`first paint of Pair: ${bytes} bytes of brotli in ${first.length} scripts; the most is ${MOST}`);
      if (bytes > MOST) this.error(`The first paint of Pair takes ${bytes} bytes of script, over ${MOST}: ${first.join(', ')}`);
    },
  },
});

/** The scripts that the page and the Pair station stand on. */
function needed(bundle: Rollup.OutputBundle): string[] {
  const chunks = Object.values(bundle).filter((f): f is Rollup.OutputChunk => f.type === 'chunk');
  const all = new Set<string>();
  const take = (name: string | undefined) => {
    const chunk = chunks.find((c) => c.fileName === name);
    if (!chunk || all.has(chunk.fileName)) return;
    all.add(chunk.fileName);
    chunk.imports.forEach(take);
  };
  take(chunks.find((c) => c.isEntry && c.facadeModuleId?.endsWith('index.html'))?.fileName);
  const pair = chunks.find((c) => Object.keys(c.modules).some((m) => m.endsWith('stations/pair/Pair.tsx')));
  if (!pair) throw new Error('no chunk holds the Pair station');
  take(pair.fileName);
  return [...all];
}
