import { useSyncExternalStore } from 'react';
import type { OwnerEdit, OwnerFields, PicturedOwner, TextField } from '../../api/hand';

/** What a person changes of one owner, before it is a plan. */
export interface Edit {
  owner: number;
  /** Of one that is to be made. */
  kind?: 'product' | 'variant' | 'category';
  label: string;
  was?: string[];
  now?: string[];
  texts: { sha: string; field: TextField; language: string; text: string }[];
  fields?: OwnerFields;
}

/** All that is changed by hand and not yet a plan, by owner. */
export type Draft = Record<number, Edit>;

const KEPT = 'ambrosa-by-hand';
let draft: Draft = read();
let past: Draft[] = [];
const watchers = new Set<() => void>();

function read(): Draft {
  try {
    return JSON.parse(sessionStorage.getItem(KEPT) ?? '{}') as Draft;
  } catch {
    return {};
  }
}

function become(next: Draft) {
  draft = next;
  sessionStorage.setItem(KEPT, JSON.stringify(next)); // nothing typed is lost where the page is loaded again
  for (const tell of watchers) tell();
}

const subscribe = (tell: () => void) => {
  watchers.add(tell);
  return () => watchers.delete(tell);
};

export const useDraft = () => useSyncExternalStore(subscribe, () => draft);

/** Changes one owner in the draft; an edit that changes nothing any more leaves it. */
export function change(owner: number, label: string, part: (edit: Edit) => Edit) {
  const next = part(draft[owner] ?? { owner, label, texts: [] });
  past = [...past.slice(-99), draft];
  const { [owner]: _, ...others } = draft;
  become(nothing(next) ? others : { ...others, [owner]: next });
}

const nothing = (e: Edit) =>
  !e.kind &&
  !e.fields &&
  e.texts.length === 0 &&
  (!e.now || (e.was?.length === e.now.length && e.now.every((s, i) => s === e.was?.[i])));

/** Takes the last change back. */
export function takeBack() {
  const last = past.at(-1);
  if (!last) return;
  past = past.slice(0, -1);
  become(last);
}

export const discard = () => {
  past = [...past, draft];
  become({});
};

/** Forgets what is a plan now. */
export const planned = () => {
  past = [];
  become({});
};

/** The pictures of an owner as they would be. */
export const picturesOf = (o: Pick<PicturedOwner, 'id' | 'pictures'>, d: Draft) =>
  d[o.id]?.now ?? o.pictures.map((p) => p.sha);

/** Puts the pictures of an owner as they shall be. */
export const setPictures = (o: PicturedOwner, now: string[]) =>
  change(o.id, o.sku || o.label, (e) => ({ ...e, was: e.was ?? o.pictures.map((p) => p.sha), now: [...new Set(now)] }));

/** Says something of a picture. */
export const setText = (o: PicturedOwner, sha: string, field: TextField, language: string, text: string) =>
  change(o.id, o.sku || o.label, (e) => {
    const others = e.texts.filter((x) => x.sha !== sha || x.field !== field || x.language !== language);
    const stands = o.pictures.find((p) => p.sha === sha)?.text ?? '';
    return { ...e, texts: text === stands ? others : [...others, { sha, field, language, text }] };
  });

export const setFields = (owner: number, label: string, fields: OwnerFields, kind?: Edit['kind']) =>
  change(owner, label, (e) => ({ ...e, kind, label, fields: { ...e.fields, ...fields } }));

/** The number of the next owner that is to be made: below 0, as it has none yet. */
export const nextNew = () => Math.min(0, ...Object.keys(draft).map(Number)) - 1;

/** The draft as the server takes it; texts of pictures that are taken off stay as they are. */
export const edits = (d: Draft): OwnerEdit[] =>
  Object.values(d).map(({ owner, kind, was, now, texts, fields }) => ({
    owner,
    kind,
    fields,
    pictures: now ? { was: was ?? [], now } : undefined,
    texts: texts.filter((x) => !now || now.includes(x.sha)),
  }));
