import { Button } from '@mantine/core';
import { Progress } from '../../ui/Progress';
import { stopSending, useSending } from '../../ui/sending';
import { t } from '../../words/words';

/** How far what is sent from here is. */
export function Sending() {
  const now = useSending();
  if (now?.state !== 'sending') return null;
  return (
    <div className="sending">
      <Progress label={t('tables.sending', { sent: now.sentBytes, of: now.bytes })} done={now.sent} of={now.files} />
      <Button size="compact-sm" onClick={stopSending}>
        {t('tables.stop_collecting')}
      </Button>
    </div>
  );
}
