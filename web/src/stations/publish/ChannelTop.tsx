import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { askChannel, type Channel, channelTouched, isLooking } from '../../api/channels';
import { ask, planQuery, useAskOnce } from '../../api/queries';
import { bytes, count, when } from '../../ui/format';
import { Progress } from '../../ui/Progress';
import { useMayEdit } from '../../ui/session';
import { sayAll } from '../../words/messages';
import { named, t } from '../../words/words';
import { ScheduleForm } from '../sources/ScheduleForm';
import { Addresses } from './Addresses';
import { ChannelForm } from './ChannelForm';
import { RemoveChannel } from './RemoveChannel';

const STATES = ['new', 'changed', 'renamed', 'removed', 'unchanged'] as const;
const NOTED = ['held', 'held_standing', 'same_path', 'no_alt', 'smaller', 'left_there'] as const;

/** What a channel is, how it stands, and what can be done with it. */
export function ChannelTop({ channel, onRemoved }: { channel: Channel; onRemoved: () => void }) {
  const [doing, setDoing] = useState<'edit' | 'clock' | 'addresses' | 'remove'>();
  const mayEdit = useMayEdit();
  const navigate = useNavigate();
  const look = useAskOnce(() => askChannel.look(channel.id), channelTouched);
  const stop = useAskOnce(() => askChannel.stop(channel.id), channelTouched);
  const go = useAskOnce(() => ask.apply(channel.plan ?? 0), [...channelTouched, ['runs'], ['plan', channel.plan]]);
  const { says } = channel;
  const looking = isLooking(channel);
  // Whether lines are held is asked of the plan: somebody may let them go meanwhile.
  const plan = useQuery({ ...planQuery(channel.plan ?? 0), enabled: channel.plan !== undefined }).data;
  const held = plan?.held ?? 0;
  const ready = plan && !channel.run ? plan.changes - held : 0;
  const noted: Record<string, number> = { ...channel.counts, held };
  const close = () => setDoing(undefined);
  const failed = !looking && (channel.state === 'failed' || channel.state === 'stopped');
  return (
    <header className="top channeltop">
      <div className="row">
        <div className="grow">
          <h1>{channel.name}</h1>
          <p className="soft">
            {says.source
              ? t('publish.to_drive', { source: channel.source, folder: says.folder || '/' })
              : t('publish.to_package')}
            {' · '}
            {t('publish.has', { count: channel.files, bytes: bytes(channel.bytes) })}
            {channel.nextAt && ` · ${t('publish.next', { when: when(channel.nextAt) })}`}
          </p>
        </div>
        {mayEdit && !looking && (
          <Button size="compact-sm" loading={look.isPending} onClick={() => look.mutate(undefined)}>
            {t(channel.plannedAt ? 'publish.look_again' : 'publish.look')}
          </Button>
        )}
        {mayEdit && !looking && ready > 0 && (
          <Button
            size="compact-sm"
            className="go"
            loading={go.isPending}
            onClick={() =>
              go.mutate(undefined, {
                onSuccess: (r) => void navigate({ to: '/ledger/$run', params: { run: String(r.id) } }),
              })
            }
          >
            {t('publish.go', { count: ready })}
          </Button>
        )}
        {!says.source && channel.files > 0 && (
          <a className="button" href={`/api/channels/${channel.id}/package`} download>
            {t('publish.download')}
          </a>
        )}
      </div>
      {looking && (
        <div className="row">
          <Progress label={t('publish.looking')} done={channel.done ?? 0} of={0} />
          <Button size="xs" disabled={channel.state === 'stopping'} onClick={() => stop.mutate(undefined)}>
            {t('publish.stop')}
          </Button>
        </div>
      )}
      {looking || failed ? <p className="wrong">{sayAll(channel.notes)}</p> : null}
      {channel.plannedAt && !looking && (
        <p className="facts-line">
          <span className="soft">{t('publish.looked', { when: when(channel.plannedAt) })}</span>
          {STATES.filter((s) => channel.counts[s]).map((s) => (
            <span key={s}>
              <b className="figures">{count(channel.counts[s] ?? 0)}</b> {named(`publish.state_${s}`)}
            </span>
          ))}
          {NOTED.filter((s) => noted[s]).map((s) => (
            <span key={s} className="wrong">
              <b className="figures">{count(noted[s] ?? 0)}</b> {named(`publish.count_${s}`)}
            </span>
          ))}
          {channel.plan && (
            <Link to="/plan/$plan" params={{ plan: String(channel.plan) }}>
              {t('publish.open_plan')}
            </Link>
          )}
          {channel.run && (
            <Link to="/ledger/$run" params={{ run: String(channel.run) }}>
              {t('publish.open_run')}
            </Link>
          )}
        </p>
      )}
      {mayEdit && (
        <p className="row channelacts">
          {(['edit', 'clock', 'addresses', 'remove'] as const).map((d) => (
            <button key={d} type="button" className="linkish" onClick={() => setDoing(d)}>
              {t(`publish.do_${d}`)}
            </button>
          ))}
        </p>
      )}
      {doing === 'edit' && <ChannelForm channel={channel} onClose={close} onKept={close} />}
      {doing === 'clock' && (
        <ScheduleForm
          was={channel.schedule}
          title={t('publish.clock_title')}
          keep={(at) => askChannel.schedule(channel.id, at)}
          touched={channelTouched}
          onClose={close}
        />
      )}
      {doing === 'addresses' && <Addresses channel={channel} onClose={close} />}
      {doing === 'remove' && <RemoveChannel channel={channel} onClose={close} onRemoved={onRemoved} />}
    </header>
  );
}
