import { Button } from '@mantine/core';
import { Link } from '@tanstack/react-router';
import { useRef } from 'react';
import type { Delivery } from '../../api/client';
import { ask, deliveryTouched, useAsk } from '../../api/queries';
import { bytes, plural, when } from '../../ui/format';
import { Progress } from '../../ui/Progress';
import { sayAll } from '../../words/messages';
import { type Dropped, readChosen } from './dropped';
import { Halted } from './Halted';
import { dismissSending, stopSending, useSending } from './sending';

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
  const stop = useAsk(ask.stopDelivery, deliveryTouched);
  const mine = sending && sending.delivery === delivery?.id ? sending : null;
  const working = delivery && ['waiting', 'taking_in', 'stopping'].includes(delivery.state);
  return (
    <header className="top">
      <div className="row">
        <div className="grow">
          <h1>{delivery?.title ?? 'Gather'}</h1>
          {delivery && (
            <p className="soft">
              {plural(delivery.lines, 'line')} · {bytes(delivery.bytes)} · {when(delivery.createdAt)} · by{' '}
              {delivery.createdBy}
            </p>
          )}
        </div>
        {mayEdit && (
          <>
            <Button onClick={() => files.current?.click()}>Choose files</Button>
            <Button onClick={() => folder.current?.click()}>Choose a folder</Button>
          </>
        )}
        {delivery?.state === 'ready' && (
          <Link to="/pair/$delivery" params={{ delivery: String(delivery.id) }} className="button go">
            Pair it
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
      {mine && (
        <div className="row">
          <Progress
            label={
              mine.state === 'stopped'
                ? 'Sending was stopped'
                : `Sending, ${bytes(mine.sentBytes)} of ${bytes(mine.bytes)}`
            }
            done={mine.state === 'sent' ? mine.files : mine.sent}
            of={mine.files}
          />
          {mine.state === 'sending' ? (
            <Button size="xs" onClick={stopSending}>
              Stop sending
            </Button>
          ) : (
            <Button size="xs" onClick={dismissSending}>
              Dismiss
            </Button>
          )}
        </div>
      )}
      {mine?.failed.map((f) => (
        <p key={f.path} className="wrong">
          {f.path}: {f.why}
        </p>
      ))}
      {working && (
        <div className="row">
          <Progress
            label={delivery.state !== 'waiting' ? 'Taking in' : sayAll(delivery.notes) ? 'Waits' : 'Waits its turn'}
            done={delivery.lines}
            of={delivery.expected}
          />
          <Button size="xs" disabled={delivery.state === 'stopping'} onClick={() => stop.mutate(delivery.id)}>
            Stop
          </Button>
        </div>
      )}
      {delivery && !mine && <Halted delivery={delivery} mayEdit={mayEdit} />}
      {delivery && (working || delivery.state === 'ready') && sayAll(delivery.notes) && (
        <p className="notice" role="status">
          {sayAll(delivery.notes)}
        </p>
      )}
    </header>
  );
}
