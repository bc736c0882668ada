import createClient, { type Middleware } from 'openapi-fetch';
import { named, shown, t } from '../words/words';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Session = Schemas['Session'];
export type Delivery = Schemas['Delivery'];
export type Arrival = Schemas['Arrival'];
/** A line with what says why, and what lowers its grade. */
export type Line = Schemas['Line'] & { why?: Schemas['Message'][]; doubt?: Schemas['Message'][] };
export type Owner = Schemas['Owner'];
/** A delivery's lines as they stand. */
export type Pairing = Omit<Schemas['Pairing'], 'delivery' | 'lines' | 'changes' | 'whys'> & {
  delivery: Delivery;
  lines: Line[];
};
export type Cell = Schemas['Cell'];
export type Share = Schemas['Share'];
export type Habit = Schemas['Habit'];
export type Plan = Schemas['Plan'];
export type Change = Schemas['Change'];
/** What changes touch: owners and the hashes of pictures, by number. */
export interface Touched {
  owners: Map<number, Schemas['OwnerRef']>;
  /** Their hashes. */
  assets: Map<number, string>;
  /** The paths that they came by. */
  paths: Map<number, string>;
}
export type Run = Schemas['Run'];
export type Job = Schemas['Job'];
export type Notice = Schemas['Notice'];
export type Product = Schemas['Product'];
export type Card = Schemas['Card'];
export type Category = Schemas['Category'];
export type Found = Schemas['Found'];
export type Person = Schemas['Person'];

/** A refusal of the server, in words for the user. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

let csrf = '';
let sessionEnded = () => {};

export const setCSRF = (word: string) => {
  csrf = word;
};
export const csrfHeaders = () => ({ 'X-Ambrosa-CSRF': csrf });
/** What to do where the server says that nobody is signed in any more. */
export const onSessionEnded = (tell: () => void) => {
  sessionEnded = tell;
};

const guard: Middleware = {
  onRequest({ request }) {
    if (csrf) request.headers.set('X-Ambrosa-CSRF', csrf);
    return request;
  },
  onResponse({ response, schemaPath }) {
    if (response.status === 401 && schemaPath !== '/api/session') sessionEnded();
  },
  onError() {
    return new Refusal(t('error.no_answer'), 0);
  },
};

export const client = createClient<paths>({ baseUrl: window.location.origin });
client.use(guard);

/** Returns the data of an answer, or throws what the server said instead. */
export async function data<T>(
  answer: Promise<{ data?: T; error?: Schemas['ProblemDetails']; response: Response }>,
): Promise<T> {
  const { data, error, response } = await answer;
  // An error may come without a word, as a proxy's does; its status counts.
  if (!response.ok) {
    const told = typeof error === 'object' ? error : undefined;
    const code = told?.type?.replace('urn:ambrosa:', '') ?? '';
    // In English the server's own words say more: which run, whose name.
    const said = (shown() !== 'en' && named(`refused.${code}`)) || (told?.errors?.[0]?.message ?? told?.detail);
    throw new Refusal(said ?? t('error.status', { status: response.status }), response.status);
  }
  return data as T;
}

export const pictureURL = (sha: string, size: 96 | 480 | 'original') => `/api/assets/${sha}/${size}`;
