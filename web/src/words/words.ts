import english from 'words:en/first';
import parts from 'words:table';
import i18next from 'i18next';
import { useSyncExternalStore } from 'react';
import type all from './en.json';

export type Language = 'en' | 'de';

/** The names of all texts; those that count stand twice, with _one and _other. */
type Name = keyof typeof all;
export type Word = Name extends infer N ? (N extends `${infer Base}_one` | `${infer Base}_other` ? Base : N) : never;

const UNITS = ['B', 'kB', 'MB', 'GB', 'TB', 'PB', 'EB'];

/** Two tables a language: the texts of the screens, and what the server has to say (the namespace messages). */
const table = i18next.createInstance();
void table.init({
  lng: 'en',
  fallbackLng: 'en',
  resources: { en: english },
  defaultNS: 'words',
  initAsync: false,
  keySeparator: false,
  nsSeparator: false,
  interpolation: { escapeValue: false, skipOnVariables: true }, // React escapes; what is filled in is no template
});

let locale = 'en-GB';
const listeners = new Set<() => void>();

/** A size as people write it, in decimal units. */
export function bytes(size: number): string {
  let i = 0;
  let n = size;
  for (; n >= 1000 && i < UNITS.length - 1; i++) n /= 1000;
  const digits = i === 0 || n >= 100 ? 0 : 1;
  return `${n.toLocaleString(locale, { minimumFractionDigits: digits, maximumFractionDigits: digits })} ${UNITS[i]}`;
}

/** A count with thousands set apart by a thin space, as long rows of digits are misread. */
export const count = (n: number): string => String(Math.trunc(n)).replace(/\B(?=(\d{3})+$)/g, '\u2009');

table.services.formatter?.add('bytes', (value: number) => bytes(value));
table.services.formatter?.add('n', (value: number) => count(value));

/** The parts of the texts that are asked for, and what of them is there by language and part. */
const wanted = new Set(['first']);
const there = new Map<string, Promise<void>>();

async function load(language: string, part: string) {
  const texts = (await parts[language]?.[part]?.())?.default;
  for (const [space, of] of Object.entries(texts ?? {})) table.addResourceBundle(language, space, of, true);
}

const fetched = (language: string) =>
  Promise.all(
    [...wanted].map((part) => {
      const name = `${language}/${part}`;
      const loading = there.get(name) ?? load(language, part);
      there.set(name, loading);
      loading.catch(() => there.delete(name));
      return loading;
    }),
  );

/** A station's scripts together with its texts in the language that is shown. */
export async function withWords<T>(part: string, scripts: Promise<T>): Promise<T> {
  wanted.add(part);
  await fetched(table.language);
  return scripts;
}

/** Sets the language of all that is shown; what is not English is loaded when it is asked for. */
export async function setLanguage(language: Language) {
  await fetched(language);
  await table.changeLanguage(language);
  locale = language === 'de' ? 'de-DE' : 'en-GB';
  document.documentElement.lang = language;
  tell();
}

/** The language that is shown now. */
export const shown = () => table.language as Language;

/** The language that is shown; who uses it is drawn again when it changes, and when texts came. */
export const useLanguage = (): Language => {
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => told,
  );
  return shown();
};

/** A text of the screens. */
export const t = (word: Word, data: Record<string, unknown> = {}): string => table.t(word, data);

/** A text by a name that is made of a value; empty where there is none. */
export const named = (word: string, data: Record<string, unknown> = {}): string =>
  table.exists(word) ? table.t(word, data) : '';

/** What the server has to say, by its code. A text that is not here is fetched, and shown when it has come. */
export const sentence = (code: string, data: Record<string, unknown> = {}): string => {
  const said = table.t(code, { ...data, ns: 'messages' });
  if (said !== code || wanted.has('gather')) return said;
  void withWords('gather', Promise.resolve()).then(tell);
  return '';
};

let told = 0;
const tell = () => {
  told++;
  for (const listener of listeners) listener();
};

/** When something was, as the language writes it: today by the hour, else with its day. */
export function when(iso: string): string {
  const date = new Date(iso);
  const clock = date.toLocaleTimeString(locale, { hour: '2-digit', minute: '2-digit' });
  if (date.toDateString() === new Date().toDateString()) return t('when.today', { clock });
  return `${date.toLocaleDateString(locale, { day: 'numeric', month: 'short', year: 'numeric' })}, ${clock}`;
}
