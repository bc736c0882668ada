import { Button, Modal } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { aheadQuery, askLookup, lookupQuery } from '../../api/guides';
import { useAskOnce } from '../../api/queries';
import { isWorking, type Source, sourceTouched, type Visit } from '../../api/sources';
import { count } from '../../ui/format';
import { say } from '../../words/messages';
import { t } from '../../words/words';

/** Before a lookup: how many will be asked for, how many can't be, the limit of the day, and that pictures may not be free to use. */
export function LookUp({
  source,
  onClose,
  onVisit,
}: {
  source: Source;
  onClose: () => void;
  onVisit: (visit: number) => void;
}) {
  const ahead = useQuery(aheadQuery(source.id)).data;
  const run = useAskOnce(() => askLookup(source.id), sourceTouched);
  const left = ahead && ahead.aDay > 0 ? Math.max(0, ahead.aDay - ahead.today) : undefined;
  const now = ahead ? Math.min(left ?? ahead.ask, ahead.ask) : 0;
  const facts: [string, number][] | undefined = ahead && [
    [t('pages.look_ask'), ahead.ask],
    [t('pages.look_known'), ahead.known],
    [t('pages.look_nothing'), ahead.nothing],
    [t('pages.look_wrong'), ahead.wrong],
    [t('pages.look_none'), ahead.none],
  ];
  return (
    <Modal
      opened
      onClose={onClose}
      title={t('pages.look_title', { source: source.name })}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <div className="formstack visitglass">
        <p>{t('pages.look_what')}</p>
        {facts && <Facts facts={facts} />}
        {ahead && left !== undefined && (
          <p className={left < ahead.ask ? 'notice' : ''}>
            {t('pages.look_limit', { day: ahead.aDay, today: ahead.today, now })}
          </p>
        )}
        <p className="notice">{t('pages.look_licence')}</p>
        {run.error && (
          <p className="wrong" role="alert">
            {run.error.message}
          </p>
        )}
        <div className="row answers">
          <span className="grow" />
          <Button onClick={onClose}>{t('page.keep')}</Button>
          <Button
            className="go"
            disabled={!ahead || now + ahead.known === 0}
            loading={run.isPending}
            onClick={() =>
              run.mutate(undefined, {
                onSuccess: ({ id }) => {
                  onClose();
                  onVisit(id);
                },
              })
            }
          >
            {now === 0 ? t('pages.look_take_known') : t('pages.look_up', { count: now })}
          </Button>
        </div>
      </div>
    </Modal>
  );
}

function Facts({ facts }: { facts: [name: string, n: number][] }) {
  return (
    <dl className="facts">
      {facts.map(([name, n]) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd className="figures">{count(n)}</dd>
        </div>
      ))}
    </dl>
  );
}

/** After a lookup: how many were found. */
export function LookedUp({ visit }: { visit: Visit }) {
  const working = isWorking(visit);
  const state = useQuery(lookupQuery(visit.id, working)).data;
  if (!state) return null;
  const facts: [string, number][] = [
    [t('pages.looked_found'), state.found],
    [t('pages.looked_none'), state.none],
    [t('pages.looked_failed'), state.failed],
    [t('pages.looked_waiting'), state.waiting],
  ];
  return (
    <>
      <p>
        <b>{t('pages.looked', { found: state.found, of: state.all })}</b>
      </p>
      <Facts facts={facts} />
      {!working && state.waiting > 0 && <p className="notice">{t('pages.looked_limit')}</p>}
      {state.failures.slice(0, 5).map((f) => (
        <p key={f.barcode} className="wrong">
          {say(f.message)}
        </p>
      ))}
    </>
  );
}
