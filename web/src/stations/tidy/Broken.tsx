import { Button } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import { type BrokenFind, tidy, tidyQuery, useBroken } from '../../api/tidy';
import { complain, say } from '../../ui/complain';
import { bytes, when } from '../../ui/format';
import { useMayAdmin } from '../../ui/mayAdmin';
import { named, t } from '../../words/words';
import { pictureFirst, used, weight } from '../pictures/pictureColumns';
import { FindBoard } from './FindBoard';
import type { Focus } from './Tidy';

/** Stored bytes that are missing or differ, and blobs that no picture knows. */
export function Broken({ onFocus }: { onFocus: (f: Focus) => void }) {
  const finds = useBroken();
  const c = useQuery(tidyQuery).data;
  const queries = useQueryClient();
  const mayAdmin = useMayAdmin();
  const columns = useMemo(
    () => [
      ...pictureFirst<BrokenFind>(),
      {
        id: 'wrong',
        name: t('tidy.wrong'),
        width: 'minmax(180px, 1fr)',
        cell: (b: BrokenFind) => named(`tidy.wrong_${b.wrong}`),
        text: (b: BrokenFind) => b.wrong,
      },
      weight<BrokenFind>(),
      used<BrokenFind>(),
    ],
    [],
  );
  const does = (work: () => Promise<unknown>, says: string) =>
    void work().then(() => {
      say(says);
      void queries.invalidateQueries({ queryKey: ['tidy'] });
    }, complain);
  return (
    <FindBoard
      name="broken"
      title={t('tidy.broken')}
      says={
        c?.scrubbedAt
          ? t('tidy.scrubbed', { when: when(c.scrubbedAt), count: c.scrubbed })
          : t('tidy.scrubbing', { count: c?.scrubbed ?? 0 })
      }
      acts={
        mayAdmin && (
          <>
            {c && c.strays > 0 && (
              <Button onClick={() => does(tidy.strays, t('tidy.strays_gone'))}>
                {t('tidy.delete_strays', { count: c.strays, bytes: bytes(c.strayBytes) })}
              </Button>
            )}
            <Button onClick={() => does(tidy.scrub, t('tidy.scrub_begun'))}>{t('tidy.scrub')}</Button>
          </>
        )
      }
      finds={finds}
      columns={columns}
      none={t('tidy.no_broken')}
      onAt={(b) => onFocus({ sha: b.sha })}
    />
  );
}
