import i18next from 'i18next';
import english from '../../../core/message/en.json';

/** What the server has to say: a code with data, of which the sentence is made here. */
export interface Message {
  code: string;
  data?: Record<string, unknown>;
}

const table = i18next.createInstance();
void table.init({
  lng: 'en',
  resources: { en: { translation: english } },
  initAsync: false,
  keySeparator: false,
  nsSeparator: false,
  interpolation: { escapeValue: false, skipOnVariables: true }, // React escapes; what is filled in is no template
});

const UNITS = ['B', 'kB', 'MB', 'GB', 'TB', 'PB', 'EB'];
table.services.formatter?.add('bytes', (value: number) => {
  let i = 0;
  let size = value;
  for (; size >= 1000 && i < UNITS.length - 1; i++) size /= 1000;
  return `${i === 0 ? size : size.toFixed(1)} ${UNITS[i]}`;
});

const isMessage = (m: unknown): m is Message => typeof m === 'object' && m !== null && 'code' in m && m.code !== '';

/** The sentence of a message; empty where there is none. */
export const say = (message: unknown): string => (isMessage(message) ? table.t(message.code, message.data ?? {}) : '');

/** The sentences of some messages, one after the other. */
export const sayAll = (messages: unknown): string => (Array.isArray(messages) ? messages.map(say).join(' ') : '');

/** The sentence without its full stop, for where it stands as a label. */
export const brief = (message: unknown): string => say(message).replace(/\.$/, '');

/** What a message says as one word, whatever the language: to compare, and for the address. */
export const wordOf = ({ code, data }: Message): string => [code, ...Object.values(data ?? {})].join(':');
