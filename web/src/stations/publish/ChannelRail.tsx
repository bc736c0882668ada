import { Button } from '@mantine/core';
import type { Channel } from '../../api/channels';
import { Filter } from '../../ui/Filter';
import { t } from '../../words/words';
import type { View } from './Publish';

interface Props {
  channels: Channel[];
  now?: Channel;
  view: View;
  go: (id: number, show?: View) => void;
  onAdd?: () => void;
}

/** The channels, with how many files each has; of the one in hand, what can be looked at. */
export function ChannelRail({ channels, now, view, go, onAdd }: Props) {
  const views: View[] = now?.says.source ? ['plan', 'stands', 'there'] : ['plan', 'stands'];
  return (
    <>
      <h2 className="railhead">{t('publish.channels')}</h2>
      {channels.map((c) => (
        <Filter key={c.id} name={c.name} count={c.files} on={c.id === now?.id} onClick={() => go(c.id)} />
      ))}
      {onAdd && (
        <Button size="compact-sm" className="railadd" onClick={onAdd}>
          {t('publish.add')}
        </Button>
      )}
      {now && (
        <>
          <h2 className="railhead">{t('publish.shown')}</h2>
          {views.map((v) => (
            <Filter
              key={v}
              name={t(`publish.view_${v}`)}
              count={v === 'plan' ? waiting(now) : v === 'stands' ? now.files : undefined}
              on={view === v}
              onClick={() => go(now.id, v)}
            />
          ))}
        </>
      )}
    </>
  );
}

/** How many files would go, or be removed, by the last plan, where that was not run yet. */
export const waiting = (c: Channel) =>
  c.run || !c.plan
    ? 0
    : (c.counts.new ?? 0) + (c.counts.changed ?? 0) + (c.counts.renamed ?? 0) + (c.counts.removed ?? 0);
