interface Texts {
  words: Record<string, string>;
  messages?: Record<string, string>;
}

declare module 'words:en/first' {
  const texts: Required<Texts>;
  export default texts;
}

declare module 'words:table' {
  /** By language and part, what loads the texts. */
  const table: Record<string, Record<string, () => Promise<{ default: Texts }>>>;
  export default table;
}
