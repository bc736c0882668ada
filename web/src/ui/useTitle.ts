import { useEffect, useSyncExternalStore } from 'react';
import { t, useLanguage } from '../words/words';

let unread = 0;
const listeners = new Set<() => void>();

/** How much ended that nobody has read of: it stands in the tab's title. */
export function setUnread(n: number) {
  unread = n;
  for (const tell of listeners) tell();
}

/** The page's title: the station, and what of it is in hand. */
export function useTitle(
  station:
    | 'gather'
    | 'pair'
    | 'tables'
    | 'catalogue'
    | 'pictures'
    | 'tidy'
    | 'publish'
    | 'ledger'
    | 'plan'
    | 'people'
    | 'pieces'
    | 'settings',
  of?: string,
) {
  const language = useLanguage();
  const waiting = useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => listeners.delete(tell);
    },
    () => unread,
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: another language is another title
  useEffect(() => {
    const named = t(`station.${station}`);
    const title = of ? t('page.title_of', { station: named, of }) : t('page.title', { station: named });
    document.title = waiting > 0 ? `(${waiting}) ${title}` : title;
  }, [station, of, language, waiting]);
}
