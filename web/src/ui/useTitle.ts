import { useEffect } from 'react';
import { t, useLanguage } from '../words/words';

/** The page's title: the station, and what of it is in hand. */
export function useTitle(
  station: 'gather' | 'pair' | 'sheets' | 'catalogue' | 'tidy' | 'ledger' | 'plan' | 'people' | 'settings',
  of?: string,
) {
  const language = useLanguage();
  // biome-ignore lint/correctness/useExhaustiveDependencies: another language is another title
  useEffect(() => {
    const name = { plan: t('plan.name'), people: t('people.title'), settings: t('settings.title') };
    const named = station in name ? name[station as keyof typeof name] : t(`station.${station as 'gather'}`);
    document.title = of ? t('page.title_of', { station: named, of }) : t('page.title', { station: named });
  }, [station, of, language]);
}
