import { t } from '../words/words';
import { say } from './complain';

/** Copies what is marked on the page, else a text, and says so. */
export async function copy(text: string, said = t('page.copied', { text })) {
  const marked = window.getSelection()?.toString();
  await navigator.clipboard.writeText(marked || text);
  if (!marked) say(said);
}
