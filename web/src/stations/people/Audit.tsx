import { Button } from '@mantine/core';
import { useInfiniteQuery } from '@tanstack/react-query';
import { client, data, type Schemas } from '../../api/client';
import { when } from '../../ui/format';
import { named, t } from '../../words/words';

const PIECE = 50;

/** Who signed in, and who changed what of whom. */
export function Audit() {
  const audit = useInfiniteQuery({
    queryKey: ['audit'],
    queryFn: ({ pageParam }: { pageParam: number }) =>
      data(client.GET('/api/audit', { params: { query: { before: pageParam, most: PIECE } } })),
    initialPageParam: 0,
    getNextPageParam: (page) => (page.length < PIECE ? undefined : page.at(-1)?.id),
  });
  return (
    <section>
      <h2>{t('people.log')}</h2>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard */}
      <section className="tablebox" tabIndex={0} aria-label={t('people.log')}>
        <table className="table">
          <thead>
            <tr>
              <th scope="col">{t('people.when')}</th>
              <th scope="col">{t('people.who')}</th>
              <th scope="col">{t('people.whom')}</th>
              <th scope="col">{t('people.what')}</th>
            </tr>
          </thead>
          <tbody>
            {audit.data?.pages.flat().map((a) => (
              <tr key={a.id}>
                <td>{when(a.at)}</td>
                <td>{a.person || t('people.command_line')}</td>
                <td>{a.subject}</td>
                <td>{what(a)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      {audit.hasNextPage && <Button onClick={() => void audit.fetchNextPage()}>{t('people.older')}</Button>}
    </section>
  );
}

function what({ code, data: of }: Schemas['Audit']): string {
  const said = { ...(of as Record<string, unknown>) };
  if (typeof said.role === 'string') said.role = named(`role.${said.role}`);
  return named(`audit.${code}`, said) || code;
}
