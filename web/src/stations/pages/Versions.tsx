import { Button } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type Guide, guideQuery, guidesQuery } from '../../api/guides';
import { when } from '../../ui/format';
import { t } from '../../words/words';

/** The versions of a guide; one that was can be taken up again. */
export function Versions({ source, current, onTake }: { source: number; current: number; onTake: (g: Guide) => void }) {
  const all = useQuery(guidesQuery(source)).data ?? [];
  const queries = useQueryClient();
  if (all.length < 2) return null;
  const take = async (version: number) => {
    const { guide } = await queries.fetchQuery(guideQuery(source, version));
    if (guide) onTake(guide);
  };
  return (
    <details>
      <summary>{t('pages.versions', { count: all.length })}</summary>
      <ul className="versions">
        {all.map((v) => (
          <li key={v.version} className="row">
            <span className="grow">
              {t('pages.version', { n: v.version })}{' '}
              <span className="soft">
                {v.person} · {v.at && when(v.at)}
              </span>
            </span>
            {v.version !== current && (
              <Button size="compact-xs" onClick={() => void take(v.version)}>
                {t('pages.take_version')}
              </Button>
            )}
          </li>
        ))}
      </ul>
    </details>
  );
}
