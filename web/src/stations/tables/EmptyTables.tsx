import { t } from '../../words/words';

/** Empty tables to fill in, with what goes in each column. */
export function EmptyTables() {
  return (
    <p className="empties">
      {t('tables.empty_tables')}{' '}
      {(['products', 'pictures'] as const).map((kind) => (
        <a key={kind} className="link" href={`/api/empty-tables/${kind}`} download>
          {t(`tables.empty_${kind}`)}
        </a>
      ))}
    </p>
  );
}
