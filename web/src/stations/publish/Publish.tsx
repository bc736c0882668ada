import { useQuery } from '@tanstack/react-query';
import { useNavigate, useSearch } from '@tanstack/react-router';
import { useState } from 'react';
import { channelsQuery } from '../../api/channels';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { useMayEdit } from '../../ui/session';
import { useTitle } from '../../ui/useTitle';
import { t } from '../../words/words';
import { ChangeGlass } from '../plan/ChangeGlass';
import { ChangeLines, nothingInFocus } from '../plan/ChangeLines';
import { ChannelForm } from './ChannelForm';
import { ChannelRail } from './ChannelRail';
import { ChannelTop } from './ChannelTop';
import { FileGlass } from './FileGlass';
import { Standing } from './Standing';
import { There } from './There';
import '../plan/PlanSheet.css';
import './Publish.css';

/** What is shown of a channel. */
export type View = 'plan' | 'stands' | 'there';

/** What a file in focus is. */
export interface FileFocus {
  path?: string;
  sha?: string;
  says?: string[];
}

/** The station from which pictures and lists go out: channels in the rail, what would go on the board. */
export function Publish() {
  const search = useSearch({ strict: false });
  const navigate = useNavigate();
  const channels = useQuery(channelsQuery).data;
  const mayEdit = useMayEdit();
  const [adding, setAdding] = useState(false);
  const [line, setLine] = useState(nothingInFocus);
  const [file, setFile] = useState<FileFocus>({});
  const channel = channels?.find((c) => c.id === search.in) ?? channels?.[0];
  useTitle('publish', channel?.name);
  const open = channel?.plan !== undefined && !channel.run;
  const usual: View = open || !channel?.plannedAt ? 'plan' : 'stands';
  const view = (search.show as View | undefined) ?? usual;
  const go = (id: number, show?: View) => void navigate({ to: '/publish', search: { in: id, show } });
  return (
    <Bench
      rail={
        <ChannelRail
          channels={channels ?? []}
          now={channel}
          view={view}
          go={go}
          onAdd={mayEdit ? () => setAdding(true) : undefined}
        />
      }
      board={
        <>
          {channel && (
            <ChannelTop key={channel.id} channel={channel} onRemoved={() => void navigate({ to: '/publish' })} />
          )}
          {channels?.length === 0 && (
            <Empty title={t('publish.none')}>
              <p>{t('publish.none_what')}</p>
            </Empty>
          )}
          {channel && view === 'plan' && channel.plan && (
            <ChangeLines key={channel.plan} plan={channel.plan} total={-1} left={false} onAt={setLine} />
          )}
          {channel && view === 'plan' && !channel.plan && (
            <Empty title={t(channel.plannedAt ? 'publish.nothing' : 'publish.not_looked')}>
              <p>{t(channel.plannedAt ? 'publish.nothing_what' : 'publish.not_looked_what')}</p>
            </Empty>
          )}
          {channel && view === 'stands' && <Standing key={channel.id} channel={channel} onFocus={setFile} />}
          {channel && view === 'there' && <There key={channel.id} channel={channel} onFocus={setFile} />}
          {adding && (
            <ChannelForm
              onClose={() => setAdding(false)}
              onKept={(id) => {
                setAdding(false);
                go(id);
              }}
            />
          )}
        </>
      }
      glass={
        view === 'plan' ? (
          <ChangeGlass {...(line.plan === channel?.plan ? line : nothingInFocus)} open={open} />
        ) : (
          <FileGlass file={file} />
        )
      }
    />
  );
}
