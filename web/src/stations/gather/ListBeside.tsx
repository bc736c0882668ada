import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { foundTablesQuery } from '../../api/tables';
import { plainly } from '../../ui/Met';
import { t } from '../../words/words';

/** The tables that lay beside a delivery's pictures: each is offered as their list. */
export function ListBeside({ delivery }: { delivery: number }) {
  const found = useQuery(foundTablesQuery(delivery, true)).data ?? [];
  return found.map((table) => (
    <p key={table.id} className="notice">
      {t('gather.list_beside', { name: plainly(table.name) })}{' '}
      <Link to="/tables/$table" params={{ table: String(table.id) }}>
        {t('gather.list_open')}
      </Link>
    </p>
  ));
}
