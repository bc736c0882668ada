import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense, useRef, useState } from 'react';
import { askDelivery } from '../../api/deliveries';
import { deliveryTouched, sessionQuery, useAsk, useAskOnce } from '../../api/queries';
import { askSource, isWorking, type Source, sourceTouched, type Visit } from '../../api/sources';
import { say } from '../../ui/complain';
import { readChosen } from '../../ui/dropped';
import { when } from '../../ui/format';
import { Progress } from '../../ui/Progress';
import { useMayEdit } from '../../ui/session';
import { sayAll } from '../../words/messages';
import { named, t, withWords } from '../../words/words';
import { DropDoor } from './DropDoor';
import { RightsLine } from './Rights';
import { Try } from './Try';
import { useBring } from './useBring';

const SourceForm = lazy(() => import('./SourceForm').then((m) => ({ default: m.SourceForm })));
const LookUp = lazy(() => withWords('pages', import('../pages/LookUp')).then((m) => ({ default: m.LookUp })));
const ScheduleForm = lazy(() => import('./ScheduleForm').then((m) => ({ default: m.ScheduleForm })));

interface Props {
  source: Source;
  visits?: Visit[];
  onVisit: (visit: number) => void;
}

/** What stands above a source's boards: what it is, and what can be done with it. */
export function SourceTop({ source, visits, onVisit }: Props) {
  const mayEdit = useMayEdit();
  const demo = useQuery(sessionQuery).data?.demo;
  const [asking, setAsking] = useState<'edit' | 'clock' | 'lookup'>();
  const collect = useAskOnce(() => askSource.collect(source.id, []), sourceTouched);
  const stop = useAsk(askDelivery.stop, deliveryTouched);
  const day = useAskOnce(askSource.passDay, []);
  const working = visits?.find(isWorking);
  const collected = source.kind === 'drive' || source.kind === 'addresses' || source.kind === 'pages';
  return (
    <header className="top">
      <div className="row">
        <div className="grow">
          <h1>{source.name}</h1>
          <p className="soft facts-line">
            {[
              named(`sources.kind_${source.kind}`),
              where(source),
              source.supplier,
              t('sources.made_by', { person: source.person }),
            ]
              .filter(Boolean)
              .join(' · ')}{' '}
            {mayEdit && source.mine && (
              <button type="button" className="linkish" onClick={() => setAsking('edit')}>
                {t('sources.edit')}
              </button>
            )}
            {mayEdit && source.mine && collected && (
              <button type="button" className="linkish" onClick={() => setAsking('clock')}>
                {t('sources.clock')}
              </button>
            )}
          </p>
        </div>
        {demo && mayEdit && collected && source.kind !== 'pages' && (
          <Button
            loading={day.isPending}
            onClick={() => day.mutate(undefined, { onSuccess: () => say(t('sources.day_passed')) })}
          >
            {t('sources.pass_day')}
          </Button>
        )}
        {mayEdit && source.kind === 'upload' && <Choose source={source} />}
        {mayEdit && source.kind === 'lookup' && !working && (
          <Button className="go" onClick={() => setAsking('lookup')}>
            {t('sources.look_up')}
          </Button>
        )}
        {mayEdit && collected && !working && (
          <Button
            className="go"
            loading={collect.isPending}
            onClick={() => collect.mutate(undefined, { onSuccess: ({ id }) => onVisit(id) })}
          >
            {t(source.kind === 'pages' ? 'sources.walk' : 'sources.collect')}
          </Button>
        )}
      </div>
      <RightsLine rights={source.rights} />
      {source.schedule && source.nextAt && <p className="soft">{t('sources.next', { when: when(source.nextAt) })}</p>}
      {working && (
        <div className="row">
          {working.listed || !working.visited ? (
            <Progress label={t('sources.fetching')} done={working.fetched} of={working.wanted} />
          ) : (
            <Progress label={t('sources.finding')} done={working.found} of={0} />
          )}
          <Button size="xs" disabled={working.state === 'stopping'} onClick={() => stop.mutate(working.id)}>
            {t('sources.stop')}
          </Button>
        </div>
      )}
      {working && sayAll(working.notes) && <p className="notice">{sayAll(working.notes)}</p>}
      {source.kind === 'drive' && mayEdit && <Try source={source} />}
      {source.kind === 'drop' && <DropDoor source={source} mayEdit={mayEdit && source.mine} />}
      {asking && (
        <Suspense>
          {asking === 'lookup' ? (
            <LookUp source={source} onClose={() => setAsking(undefined)} onVisit={onVisit} />
          ) : asking === 'edit' ? (
            <SourceForm source={source} onClose={() => setAsking(undefined)} />
          ) : (
            <ScheduleForm
              was={source.schedule}
              title={t('sources.clock_title')}
              keep={(at) => askSource.schedule(source.id, at)}
              touched={sourceTouched}
              onClose={() => setAsking(undefined)}
            />
          )}
        </Suspense>
      )}
    </header>
  );
}

/** Where a source lies, in a few words. */
function where({ settings, addresses }: Source): string {
  const { protocol, values = {}, folder, login, lookup } = settings;
  if (lookup) return lookup.address;
  if (login) return `/drop/${login}/`;
  if (addresses) return t('sources.count_addresses', { count: addresses });
  const host = values.url ?? values.host ?? values.endpoint ?? '';
  return [protocol && !host.includes('://') ? `${protocol}://${host}` : host, folder].filter(Boolean).join(' ');
}

/** Sends files as a delivery of the source. */
function Choose({ source }: { source: Source }) {
  const files = useRef<HTMLInputElement>(null);
  const bring = useBring(source.id);
  return (
    <>
      <Button className="go" onClick={() => files.current?.click()}>
        {t('sources.choose_files')}
      </Button>
      <input
        ref={files}
        type="file"
        multiple
        hidden
        data-testid="files"
        onChange={(e) => {
          const chosen = readChosen(e.currentTarget.files ?? new DataTransfer().files);
          e.currentTarget.value = '';
          bring(chosen);
        }}
      />
    </>
  );
}
