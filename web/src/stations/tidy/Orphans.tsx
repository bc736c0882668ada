import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useMemo } from 'react';
import { gallery } from '../../api/gallery';
import { type OrphanFind, tidy, tidyQuery, useOrphans } from '../../api/tidy';
import type { Column } from '../../ui/columns';
import { bytes } from '../../ui/format';
import { useMayEdit } from '../../ui/session';
import { usePicks } from '../../ui/usePicks';
import { usePlanned } from '../../ui/usePlanned';
import { named, t } from '../../words/words';
import { pictureFirst, weight } from '../pictures/pictureColumns';
import { FindBoard } from './FindBoard';
import type { Focus } from './Tidy';

/** Pictures that no owner shows: why, and what speaks for each. */
export function Orphans({ only, onFocus }: { only: boolean; onFocus: (f: Focus) => void }) {
  const finds = useOrphans(only);
  const counts = useQuery(tidyQuery).data;
  const mayEdit = useMayEdit();
  const { picked, toggle } = usePicks();
  const { busy, plan } = usePlanned();
  const columns = useMemo(() => [...pictureFirst<OrphanFind>(picked), weight<OrphanFind>(), ...reasons()], [picked]);
  const some = [...picked];
  return (
    <FindBoard
      name="orphans"
      title={t(only ? 'tidy.proposed' : 'tidy.orphans')}
      says={
        only
          ? t('tidy.proposed_what')
          : t('tidy.orphans_what', { count: counts?.orphans ?? 0, bytes: bytes(counts?.orphanBytes ?? 0) })
      }
      acts={
        mayEdit && (
          <>
            {some.length > 0 && (
              <Button
                loading={busy}
                onClick={() =>
                  void plan(() =>
                    gallery.plan({ act: 'bin', pictures: some, title: t('pictures.plan_bin', { count: some.length }) }),
                  )
                }
              >
                {t('pictures.bin', { count: some.length })}
              </Button>
            )}
            <Button
              className="go"
              loading={busy}
              onClick={() => void plan(() => tidy.plan({ finding: 'orphans', title: t('tidy.plan_orphans') }))}
            >
              {t('tidy.bin_proposed')}
            </Button>
          </>
        )
      }
      finds={finds}
      columns={columns}
      none={t('tidy.no_orphans')}
      onAt={(o) => onFocus({ sha: o.sha })}
      picked={picked}
      id={(o) => o.id}
      onPick={toggle}
    />
  );
}

const reasons = (): Column<OrphanFind>[] => [
  {
    id: 'why',
    name: t('tidy.why'),
    width: 'minmax(150px, 1fr)',
    className: 'clip',
    cell: (o) =>
      o.run ? (
        <Link to="/ledger/$run" params={{ run: String(o.run) }}>
          {named(`tidy.why_${o.why}`, { run: o.run })}
        </Link>
      ) : (
        named(`tidy.why_${o.why}`)
      ),
    text: (o) => o.why,
  },
  {
    id: 'speaks',
    name: t('tidy.speaks'),
    width: 'minmax(150px, 1.2fr)',
    className: 'clip',
    cell: (o) =>
      o.speaksFor.length ? (
        o.speaksFor.map((v) => named(`tidy.voice_${v}`)).join(', ')
      ) : (
        <b>{t('tidy.nothing_speaks')}</b>
      ),
    text: (o) => o.speaksFor.join(', '),
  },
];
