import { Button, Textarea } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useAskOnce } from '../../api/queries';
import { askSource, learntQuery, type Reference, referencesQuery, type Source, sourceTouched } from '../../api/sources';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { say } from '../../ui/complain';
import { Empty } from '../../ui/Empty';
import { count, when } from '../../ui/format';
import { useMayEdit } from '../../ui/session';
import { useFocus } from '../../ui/useFocus';
import { t } from '../../words/words';
import type { Parts } from './parts';

interface Line extends Reference {
  id: number;
  learnt: boolean;
}

/** A supplier's own codes beside our SKUs: those that are kept, and those that could be learnt from what people paired by hand. */
export function References({ source, rail, top, at, onAt }: Parts & { source: Source }) {
  const kept = useQuery(referencesQuery(source.id)).data;
  const learnt = useQuery(learntQuery(source.id)).data;
  const mayEdit = useMayEdit();
  const lines = useMemo(
    () => [
      ...(learnt ?? []).map((r, i): Line => ({ ...r, id: -i - 1, learnt: true })),
      ...(kept ?? []).map((r, i): Line => ({ ...r, id: i + 1, learnt: false })),
    ],
    [kept, learnt],
  );
  const focus = useFocus(lines, at);
  const line = lines[focus];
  const add = useAskOnce(
    (some: Reference[]) => askSource.refer(source.id, { entries: some.map(({ code, sku }) => ({ code, sku })) }),
    sourceTouched,
  );
  const remove = useAskOnce((codes: string) => askSource.unrefer(source.id, codes), sourceTouched);
  const cols = useMemo(() => columns(), []);
  return (
    <Bench
      rail={rail}
      board={
        <>
          {top}
          {mayEdit && learnt && learnt.length > 0 && (
            <div className="row notice">
              <span className="grow">{t('sources.learnt', { count: learnt.length })}</span>
              <Button size="compact-sm" loading={add.isPending} onClick={() => add.mutate(learnt)}>
                {t('sources.take_all')}
              </Button>
            </div>
          )}
          {lines.length > 0 ? (
            <Board
              name="references"
              label={t('sources.references')}
              lines={lines}
              columns={cols}
              height={36}
              at={focus}
              onAt={(n) => onAt(lines[n]?.id)}
              autoFocus
            />
          ) : (
            kept && (
              <Empty title={t('sources.no_references')}>
                <p>{t('sources.references_what')}</p>
              </Empty>
            )
          )}
        </>
      }
      glass={
        <>
          {line && (
            <div className="visitglass">
              <h2 className="mono">{line.code}</h2>
              <p>
                <span className="mono">{line.sku}</span> {line.title}
              </p>
              {line.confirmed ? <p className="soft">{t('sources.confirmed', { count: line.confirmed })}</p> : null}
              {line.person && line.addedAt && (
                <p className="soft">{t('sources.added_by', { person: line.person, when: when(line.addedAt) })}</p>
              )}
              {mayEdit &&
                (line.learnt ? (
                  <Button size="compact-sm" className="go" onClick={() => add.mutate([line])}>
                    {t('sources.take')}
                  </Button>
                ) : (
                  <Button size="compact-sm" onClick={() => remove.mutate(line.code)}>
                    {t('sources.remove_code')}
                  </Button>
                ))}
            </div>
          )}
          {mayEdit && <Bring source={source.id} />}
        </>
      }
    />
  );
}

/** Brings lines of a cross-reference in as a text: their code and our SKU. */
function Bring({ source }: { source: number }) {
  const [text, setText] = useState('');
  const bring = useAskOnce(() => askSource.refer(source, { text }), sourceTouched);
  return (
    <form
      className="formstack"
      onSubmit={(event) => {
        event.preventDefault();
        bring.mutate(undefined, {
          onSuccess: ({ added, unknown }) => {
            setText(unknown.length > 0 ? text : '');
            say(t('sources.brought', { count: added }));
          },
        });
      }}
    >
      <Textarea
        label={t('sources.bring')}
        description={t('sources.bring_what')}
        classNames={{ input: 'mono' }}
        value={text}
        autosize
        minRows={3}
        maxRows={10}
        onChange={(e) => setText(e.currentTarget.value)}
      />
      {bring.data && bring.data.unknown.length > 0 && (
        <p className="wrong">{t('sources.unknown', { skus: bring.data.unknown.join(', ') })}</p>
      )}
      <Button type="submit" size="compact-sm" disabled={!text.trim()} loading={bring.isPending}>
        {t('sources.do_bring')}
      </Button>
    </form>
  );
}

const columns = (): Column<Line>[] => [
  {
    id: 'code',
    name: t('sources.their_code'),
    fixed: true,
    width: 'minmax(120px, 1fr)',
    className: 'two',
    cell: (l) => <span className="mono clip">{l.code}</span>,
    text: (l) => l.code,
  },
  {
    id: 'sku',
    name: t('sources.our_sku'),
    fixed: true,
    width: 'minmax(120px, 1fr)',
    className: 'two',
    cell: (l) => <span className="mono clip">{l.sku}</span>,
    text: (l) => l.sku,
  },
  {
    id: 'title',
    name: t('sources.title'),
    width: 'minmax(100px, 1fr)',
    wide: true,
    className: 'two',
    cell: (l) => <span className="clip">{l.title}</span>,
    text: (l) => l.title,
  },
  {
    id: 'state',
    name: t('sources.state'),
    width: '150px',
    cell: (l) => (l.learnt ? <b>{t('sources.offered')}</b> : t('sources.kept')),
    text: (l) => t(l.learnt ? 'sources.offered' : 'sources.kept'),
  },
  {
    id: 'confirmed',
    name: t('sources.by_hand'),
    width: '90px',
    figures: true,
    cell: (l) => (l.confirmed ? count(l.confirmed) : ''),
    text: (l) => l.confirmed,
  },
];
