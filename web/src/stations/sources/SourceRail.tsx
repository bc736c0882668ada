import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { lazy, Suspense, useState } from 'react';
import { type Source, sourcesQuery } from '../../api/sources';
import { Filter } from '../../ui/Filter';
import { useMayEdit } from '../../ui/session';
import { named, t } from '../../words/words';
import './Sources.css';

const SourceForm = lazy(() => import('./SourceForm').then((m) => ({ default: m.SourceForm })));

/** Where deliveries come from: each is opened, and another is named. */
export function SourceRail({ at }: { at?: number }) {
  const sources = useQuery(sourcesQuery).data ?? [];
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const [adding, setAdding] = useState(false);
  const open = (id: number) => void navigate({ to: '/gather/$source', params: { source: String(id) }, search: {} });
  return (
    <>
      <h2 className="railhead">{t('sources.sources')}</h2>
      {sources.map((s) => (
        <Filter
          key={s.id}
          name={<SourceName source={s} />}
          count={s.deliveries}
          on={s.id === at}
          onClick={() => open(s.id)}
        />
      ))}
      {mayEdit && (
        <Button size="compact-sm" variant="subtle" className="quietbutton" onClick={() => setAdding(true)}>
          {t('sources.add')}
        </Button>
      )}
      {mayEdit && (
        <Button
          size="compact-sm"
          variant="subtle"
          className="quietbutton"
          onClick={() => void navigate({ to: '/gather/page', search: {} })}
        >
          {t('sources.by_eye')}
        </Button>
      )}
      {adding && (
        <Suspense>
          <SourceForm onClose={() => setAdding(false)} onKept={open} />
        </Suspense>
      )}
    </>
  );
}

function SourceName({ source }: { source: Source }) {
  return (
    <>
      {source.name}
      <small>{source.working ? t('sources.working') : named(`sources.kind_${source.kind}`)}</small>
    </>
  );
}
