import { sentence } from './words';

/** What the server has to say: a code with data, of which the sentence is made here. */
export interface Message {
  code: string;
  data?: Record<string, unknown>;
}

const isMessage = (m: unknown): m is Message => typeof m === 'object' && m !== null && 'code' in m && m.code !== '';

/** The sentence of a message; empty where there is none. */
export const say = (message: unknown): string => (isMessage(message) ? sentence(message.code, message.data) : '');

/** The sentences of some messages, one after the other. */
export const sayAll = (messages: unknown): string => (Array.isArray(messages) ? messages.map(say).join(' ') : '');

/** The sentence without its full stop, for where it stands as a label. */
export const brief = (message: unknown): string => say(message).replace(/\.$/, '');

/** What a message says as one word, whatever the language: to compare, and for the address. */
export const wordOf = ({ code, data }: Message): string => [code, ...Object.values(data ?? {})].join(':');
