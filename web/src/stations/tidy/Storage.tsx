import { useQuery } from '@tanstack/react-query';
import { storageQuery } from '../../api/tidy';
import { bytes, count } from '../../ui/format';
import { t } from '../../words/words';

const WAYS = ['source', 'category', 'format', 'month'] as const;

/** How much is stored, in figures with bars. */
export function Storage() {
  const s = useQuery(storageQuery).data;
  if (!s) return <div className="hush">{t('tidy.reading')}</div>;
  const totals = [
    ['tidy.originals', s.originals],
    ['tidy.derived', s.derived],
    ['tidy.in_bin', s.bin],
  ] as const;
  return (
    <>
      <header className="top">
        <h1>{t('tidy.storage')}</h1>
        <p className="soft">{t('tidy.storage_what')}</p>
      </header>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard */}
      <div className="storage" tabIndex={0}>
        <dl className="facts totals">
          {totals.map(([name, n]) => (
            <div key={name}>
              <dt>{t(name)}</dt>
              <dd className="figures">{name === 'tidy.derived' && n === 0 ? t('tidy.not_counted') : bytes(n)}</dd>
            </div>
          ))}
        </dl>
        {WAYS.map((by) => {
          const rows = s.figures.filter((f) => f.by === by);
          const most = Math.max(1, ...rows.map((f) => f.bytes));
          return (
            <table key={by}>
              <caption>{t(`tidy.by_${by}`)}</caption>
              <tbody>
                {rows.slice(0, 40).map((f) => (
                  <tr key={f.name}>
                    <th scope="row">{f.name || t(`tidy.by_no_${by}`)}</th>
                    <td className="bar">
                      <i style={{ width: `${(100 * f.bytes) / most}%` }} />
                    </td>
                    <td className="figures">{bytes(f.bytes)}</td>
                    <td className="figures soft">{count(f.pictures)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          );
        })}
      </div>
    </>
  );
}
