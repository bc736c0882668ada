import { Button } from '@mantine/core';
import { Link } from '@tanstack/react-router';
import { useRef } from 'react';
import type { Delivery } from '../../api/client';
import { askDelivery } from '../../api/deliveries';
import { deliveryTouched, useAsk } from '../../api/queries';
import { type Dropped, readChosen } from '../../ui/dropped';
import { when } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { Progress } from '../../ui/Progress';
import { dismissSending, stopSending, useSending } from '../../ui/sending';
import { sayAll } from '../../words/messages';
import { t } from '../../words/words';
import { ShotsButton } from '../shots/ShotsButton';
import { RightsLine } from '../sources/Rights';
import { Describe } from './Describe';
import { Halted } from './Halted';
import { ListBeside } from './ListBeside';

interface TopProps {
  delivery?: Delivery;
  onFiles: (dropped: Dropped[]) => void;
  mayEdit: boolean;
}

/** What stands above the lines: the delivery, what can be sent into it, and how far it is. */
export function GatherTop({ delivery, onFiles, mayEdit }: TopProps) {
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const sending = useSending();
  const stop = useAsk(askDelivery.stop, deliveryTouched);
  const mine = sending && sending.delivery === delivery?.id ? sending : null;
  const working = delivery && ['waiting', 'taking_in', 'stopping'].includes(delivery.state);
  return (
    <header className="top">
      <div className="row">
        <div className="grow">
          <h1>{delivery?.title ?? t('station.gather')}</h1>
          {delivery && (
            <p className="soft facts-line">
              {t('gather.facts', {
                count: delivery.lines,
                size: delivery.bytes,
                when: when(delivery.createdAt),
                person: delivery.createdBy,
              })}{' '}
              {mayEdit && <Describe key={delivery.id} delivery={delivery} />}{' '}
              {delivery.state === 'ready' && (
                <ShotsButton of={{ delivery: delivery.id }} title={delivery.title} name={t('gather.shots')} quiet />
              )}
            </p>
          )}
        </div>
        {mayEdit && (
          <>
            <Button onClick={() => files.current?.click()}>{t('gather.choose_files')}</Button>
            <Button onClick={() => folder.current?.click()}>{t('gather.choose_folder')}</Button>
          </>
        )}
        {delivery?.state === 'ready' && (
          <Link
            to="/pair/$delivery"
            params={{ delivery: String(delivery.id) }}
            search={{ rule: delivery.rule }}
            className="button go"
          >
            {t('gather.pair')}
          </Link>
        )}
        <input
          ref={files}
          type="file"
          multiple
          hidden
          data-testid="files"
          onChange={(e) => {
            onFiles(readChosen(e.currentTarget.files ?? new DataTransfer().files));
            e.currentTarget.value = '';
          }}
        />
        <input
          ref={folder}
          type="file"
          multiple
          hidden
          {...{ webkitdirectory: '' }}
          onChange={(e) => {
            onFiles(readChosen(e.currentTarget.files ?? new DataTransfer().files));
            e.currentTarget.value = '';
          }}
        />
      </div>
      {(delivery?.supplier || delivery?.note) && (
        <p className="said">
          {delivery.supplier && <b>{delivery.supplier}</b>} {delivery.note}
        </p>
      )}
      <RightsLine rights={delivery?.rights} />
      {delivery?.source ? (
        <p className="soft">
          <Link to="/gather/$source" params={{ source: String(delivery.source) }} search={{}}>
            {t('gather.from_source', { source: delivery.sourceName })}
          </Link>
          {delivery.visit && (
            <>
              {' · '}
              <Link to="/gather/$source" params={{ source: String(delivery.source) }} search={{ in: delivery.id }}>
                {t('gather.visit')}
              </Link>
            </>
          )}
          {delivery.likeTitle && ` · ${t('gather.like_last', { title: delivery.likeTitle })}`}
        </p>
      ) : null}
      {mine && (
        <div className="row">
          <Progress
            label={
              mine.state === 'stopped'
                ? t('gather.sending_stopped')
                : t('gather.sending', { sent: mine.sentBytes, of: mine.bytes })
            }
            done={mine.state === 'sent' ? mine.files : mine.sent}
            of={mine.files}
          />
          {mine.state === 'sending' ? (
            <Button size="xs" onClick={stopSending}>
              {t('gather.stop_sending')}
            </Button>
          ) : (
            <Button size="xs" onClick={dismissSending}>
              {t('gather.dismiss')}
            </Button>
          )}
        </div>
      )}
      {mine?.failed.map((f) => (
        <p key={f.path} className="wrong">
          {plainly(f.path)}: {f.why}
        </p>
      ))}
      {working && (
        <div className="row">
          <Progress
            label={t(`gather.${stage(delivery)}`)}
            done={delivery.visit && !delivery.visit.listed ? delivery.visit.found : delivery.lines}
            of={delivery.visit ? delivery.visit.wanted : delivery.expected}
          />
          <Button size="xs" disabled={delivery.state === 'stopping'} onClick={() => stop.mutate(delivery.id)}>
            {t('gather.stop')}
          </Button>
        </div>
      )}
      {delivery?.state === 'ready' && <ListBeside delivery={delivery.id} />}
      {delivery && !mine && <Halted delivery={delivery} mayEdit={mayEdit} />}
      {delivery && (working || delivery.state === 'ready') && sayAll(delivery.notes) && (
        <p className="notice" role="status">
          {sayAll(delivery.notes)}
        </p>
      )}
    </header>
  );
}

/** What a delivery that is on its way does just now. */
function stage({ state, visit, notes }: Delivery) {
  if (state === 'waiting') return sayAll(notes) ? 'waits' : 'queued';
  return visit && !visit.listed ? 'finding' : 'taking_in';
}
