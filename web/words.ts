import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Plugin } from 'vite';

/** The texts that come with a station's own scripts, by the first part of their names, and the folders that may use them. */
const STATIONS: Record<string, { names: string[]; folders: RegExp }> = {
  gather: { names: ['gather', 'sources', 'drive', 'rights', 'problem'], folders: /stations\/(gather|sources)\// },
  pages: { names: ['pages'], folders: /stations\/pages\// },
  catalogue: {
    names: ['catalogue', 'hand', 'wording', 'shop', 'text_problem', 'text_why', 'text_field'],
    folders: /stations\/(catalogue|hand|wording|shop)\//,
  },
  ledger: { names: ['plan', 'ledger', 'subject', 'field'], folders: /stations\/(plan|ledger)\/|subjects\// },
  people: { names: ['people', 'audit', 'settings', 'tokens'], folders: /stations\/(people|settings)\// },
  tables: { names: ['tables', 'wrong'], folders: /stations\/tables\// },
  shots: { names: ['shots'], folders: /stations\/shots\// },
  pieces: { names: ['pieces'], folders: /stations\/pieces\// },
  against: { names: ['against'], folders: /pair\/Against/ },
  bell: { names: ['bell'], folders: /ui\/Bell/ },
  series: { names: ['series'], folders: /stations\/series\// },
  compare: { names: ['compare'], folders: /pair\/Compare/ },
  me: { names: ['me', 'role'], folders: /PersonMenu|(settings|people)\// },
  keys: { names: ['keys'], folders: /ui\/Keys/ },
  pictures: { names: ['pictures'], folders: /stations\/(pictures|tidy)\// },
  tidy: { names: ['tidy'], folders: /stations\/tidy\// },
  publish: { names: ['publish'], folders: /stations\/publish\// },
};

/** What the server says that few stations show: of cells, of drives and addresses, of rights. Elsewhere it is fetched when it is said. */
const CELLS = 'table_(picture|main|alt|barcode|zeros|key|parent|number|formula|text_long|cells|quote|blank|address)';
/** What is wrong with a row of a table of owners. */
const OWNERS = '(as_written|other_kind|title_missing|product_(is_variant|unknown|left_out)|category_(of_product|deep|unknown)|barcode_(taken|twice|zeros)|sku_(twice|missing|empty|taken)|ground_missing|own_ground|owner_in_use)$';
const SAID: Record<string, RegExp> = {
  tables: new RegExp(`^(${CELLS}|${OWNERS}|fetch_|sheet_|table_(password|old|damaged|bomb|empty|without_sku|no_text|wide|date_unreadable|flag_unreadable))`),
  ledger: new RegExp(`^(${CELLS}|${OWNERS}|rights_|publish_|asset_(shown|doomed|wanted)$)`),
  catalogue: new RegExp(
    `^((title_long|sku_there|product_gone|category_(gone|in_use|there)|code_there|file_name_taken|picture_gone|pictures_since|owner_gone)$|fetch_|vault_|archive_|${OWNERS})`,
  ),
  pages: /^(walk_|picture_(border|soft)$)/,
  gather: new RegExp(
    `^(picture_(deleted|cut|checksum|packed|header|damaged|large)$|type_|left_|page_|lookup_|drive_|source_removed|picture_too_small|fetch_|vault_|archive_|publish_|${OWNERS})`,
  ),
  publish: /^(publish_|rights_|drive_)/,
};
/** What the server refuses to one station alone: its texts come with the station's. */
const REFUSED: Record<string, RegExp> = {
  gather: /^refused\.(guide|point|no_page_rule|page_forgotten|no_guide|nothing_to_ask)$|^refused\.(drive_|source_|not_collected|schedule|sealed)/,
  tables: /^refused\.(table_|assignment_|nothing_to_collect|collecting|no_sheet)/,
  catalogue: /^refused\.(pattern|language|text_|rule_|siblings|picture_address)/,
  publish: /^refused\.(channel|no_package|site|no_addresses)/,
  tidy: /^refused\.(bin_count|limits|finding)$/,
  ledger: /^refused\.(final|run_state|undone)$/,
  shots: /^refused\.(picture_(columns|many)|cell_(taken|place))$/,
  people: /^refused\.(mail_|webhook|no_mail_|name_taken|weak|role|name|password|last_admin|former)$/,
};
/** What the server writes into files, and no screen shows. */
const IN_FILES = /^(column|report)_/;

const SCREENS = join(import.meta.dirname, 'src/words');
const MESSAGES = join(import.meta.dirname, '../core/message');
const stationOf = (name: string) => {
  const refused = Object.keys(REFUSED).find((s) => REFUSED[s]?.test(name));
  if (refused) return refused;
  return Object.keys(STATIONS).find((s) => STATIONS[s]?.names.includes(name.split('.')[0] ?? '')) ?? 'first';
};

/**
 * Splits each language's one file of texts, so that a station brings its own and the first paint only what it needs. The module
 * words:table maps language and part to what loads it; words:en/first is what every page stands on. A text that is used outside
 * the folders of its station fails the build, as it would not be there.
 */
export const words = (): Plugin => ({
  name: 'words',
  resolveId: (id) => (id.startsWith('words:') ? `\0${id}` : undefined),
  load(id) {
    const asked = /^\0words:(table|(\w+)\/(\w+))$/.exec(id);
    if (!asked) return undefined;
    const [, name, language = '', part = ''] = asked;
    if (name === 'table') return tableOf(readdirSync(SCREENS).filter((f) => f.endsWith('.json')));
    const file = join(SCREENS, `${language}.json`);
    this.addWatchFile(file);
    const all: Record<string, string> = JSON.parse(readFileSync(file, 'utf8'));
    const texts = Object.fromEntries(Object.entries(all).filter(([text]) => stationOf(text) === part));
    const said: Record<string, string> = JSON.parse(readFileSync(join(MESSAGES, `${language}.json`), 'utf8'));
    const own = SAID[part];
    const here = (code: string) => own?.test(code) ?? ![IN_FILES, ...Object.values(SAID)].some((of) => of.test(code));
    const messages = Object.fromEntries(Object.entries(said).filter(([code]) => here(code)));
    return `export default ${JSON.stringify(part === 'first' || own ? { words: texts, messages } : { words: texts })}`;
  },
  transform(code, id) {
    if (!/web\/src\/.*\.tsx?$/.test(id)) return;
    for (const [, name = ''] of code.matchAll(/['"`]([a-z]+)\.[a-z_$]/g)) {
      const station = STATIONS[stationOf(`${name}.`)];
      if (station && !station.folders.test(id)) this.error(`${id} uses ${name}.…, whose texts only come with ${station.folders}`);
    }
  },
});

/** The table of what loads each part of each language. English comes whole with the page in as far as it is needed first. */
function tableOf(files: string[]): string {
  const parts = ['first', ...Object.keys(STATIONS)];
  const rows = files.map((file) => {
    const language = file.replace('.json', '');
    const loaders = parts.filter((p) => p !== 'first' || language !== 'en').map((p) => `${p}: () => import('words:${language}/${p}')`);
    return `${language}: {${loaders.join(', ')}}`;
  });
  return `export default {${rows.join(', ')}}`;
}
