import { useQuery } from '@tanstack/react-query';
import { tidy, tidyQuery } from '../../api/tidy';
import { complain } from '../../ui/complain';
import { Filter } from '../../ui/Filter';
import { when } from '../../ui/format';
import { useMayEdit } from '../../ui/session';
import { named, t } from '../../words/words';

/** What was found, with how much of each. */
export function TidyRail({ show, go }: { show: string; go: (show: string) => void }) {
  const c = useQuery(tidyQuery).data;
  const mayEdit = useMayEdit();
  const line = (key: string, name: string, count?: number) => (
    <Filter key={key} name={name} count={count} on={show === key} onClick={() => go(key)} />
  );
  const some = (names: string[] | undefined, counts: Record<string, number> | undefined, kind: string) =>
    (names ?? []).map((n) => line(`${kind}.${n}`, named(`tidy.${kind}_${n}`), counts?.[n] ?? 0));
  return (
    <>
      <h2 className="railhead">{t('tidy.missing')}</h2>
      {line('coverage', t('tidy.coverage'))}
      {some(c?.gapNames, c?.gaps, 'gap')}
      {line('barcodes', t('tidy.barcodes'))}
      <h2 className="railhead">{t('tidy.unused')}</h2>
      {line('orphans', t('tidy.orphans'), c?.orphans)}
      {line('orphans.proposed', t('tidy.proposed'), c?.proposed)}
      {line('twice', t('tidy.twice'), c?.twice)}
      {line('shared', t('tidy.shared'), c?.shared)}
      <h2 className="railhead">{t('tidy.unfit')}</h2>
      {some(c?.faultNames, c?.unfit, 'unfit')}
      <h2 className="railhead">{t('tidy.store')}</h2>
      {line('bin', t('tidy.bin'), c?.binned)}
      {line('broken', t('tidy.broken'), c ? c.broken + c.strays : undefined)}
      {line('storage', t('tidy.storage'))}
      {line('rules', t('tidy.rules'))}
      {mayEdit && (
        <button type="button" className="plainlink railnote" onClick={() => void tidy.find().catch(complain)}>
          {t('tidy.find_again')}
        </button>
      )}
      {c?.foundAt && <p className="soft railnote">{t('tidy.found_at', { when: when(c.foundAt) })}</p>}
      {c && c.unchecked > 0 && <p className="soft railnote">{t('tidy.unchecked', { count: c.unchecked })}</p>}
    </>
  );
}
