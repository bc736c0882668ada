import { useEffect, useRef } from 'react';
import type { Pairing } from '../../api/client';
import { say } from '../../ui/complain';
import { t } from '../../words/words';

/** Says when the catalogue changed while the bench was open, and how many lines are paired otherwise since. */
export function useCatalogueNotice(pairing: Pairing | undefined) {
  const before = useRef<Pairing>(undefined);
  useEffect(() => {
    const had = before.current;
    before.current = pairing;
    if (!had || !pairing || had.delivery.id !== pairing.delivery.id || had.catalogue === pairing.catalogue) return;
    const was = new Map(had.lines.map((l) => [l.id, l]));
    const touched = pairing.lines.filter((l) => {
      const w = was.get(l.id);
      return w && (w.owner !== l.owner || w.grade !== l.grade);
    }).length;
    say(touched ? t('pair.catalogue_some', { count: touched }) : t('pair.catalogue_none'));
  }, [pairing]);
}
