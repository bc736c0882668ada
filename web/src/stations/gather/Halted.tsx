import { Button, Modal } from '@mantine/core';
import { useState } from 'react';
import type { Delivery } from '../../api/client';
import { ask, deliveryTouched, useAsk } from '../../api/queries';
import { bytes, plural } from '../../ui/format';
import { sayAll } from '../../words/messages';

/** A delivery that does not go on by itself: why, and what can be done about it. */
export function Halted({ delivery, mayEdit }: { delivery: Delivery; mayEdit: boolean }) {
  const close = useAsk((id: number) => ask.closeDelivery(id, true), deliveryTouched);
  const resume = useAsk(ask.resumeDelivery, deliveryTouched);
  const reopen = useAsk(ask.reopenDelivery, deliveryTouched);
  const remove = useAsk(ask.removeDelivery, deliveryTouched);
  const [asking, setAsking] = useState(false);
  const { id, state } = delivery;
  if (state !== 'open' && state !== 'stopped' && state !== 'failed') return null;
  return (
    <div className="notice row">
      <span className="grow">{why(delivery)}</span>
      {mayEdit && (
        <>
          {state === 'open' && delivery.uploads > 0 && (
            <Button size="xs" onClick={() => close.mutate(id)}>
              Take in what is here
            </Button>
          )}
          {state !== 'open' && (
            <Button size="xs" onClick={() => resume.mutate(id)}>
              Go on
            </Button>
          )}
          {state === 'failed' && (
            <Button size="xs" onClick={() => reopen.mutate(id)}>
              Send the files again
            </Button>
          )}
          <Button size="xs" onClick={() => setAsking(true)}>
            Remove …
          </Button>
        </>
      )}
      <Modal opened={asking} onClose={() => setAsking(false)} title="Remove this delivery?">
        <p>
          “{delivery.title}” and what was sent for it ({bytes(delivery.uploadBytes)}) are removed from the server.
          Pictures that were taken in already stay stored.
        </p>
        <div className="row answers">
          <span className="grow" />
          <Button onClick={() => setAsking(false)} data-autofocus>
            Keep it
          </Button>
          <Button
            className="go"
            onClick={() => {
              setAsking(false);
              remove.mutate(id);
            }}
          >
            Remove it
          </Button>
        </div>
      </Modal>
    </div>
  );
}

function why({ state, notes, lines, uploads }: Delivery): string {
  const note = sayAll(notes);
  if (state === 'failed') return `It failed: ${note}`;
  if (state === 'stopped') return `Stopped after ${plural(lines, 'line')}.`;
  if (note) return note;
  if (uploads === 0) return 'Nothing has been sent yet. Drop files to send them into it.';
  return `Sending ended early: ${plural(uploads, 'file')} began to arrive. Drop the same files again to go on, or take in what is here in full.`;
}
