import { t } from '../../words/words';

/** What became of each row of the table that a plan was made from, as a file. */
export function RowReport({ plan }: { plan: number }) {
  return (
    <span className="report">
      {t('plan.report')}{' '}
      {['csv', 'xlsx'].map((format) => (
        <a key={format} href={`/api/plans/${plan}/report?format=${format}`} download>
          {format.toUpperCase()}
        </a>
      ))}
    </span>
  );
}
