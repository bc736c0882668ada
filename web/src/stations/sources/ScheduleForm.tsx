import { Button, Modal, NumberInput, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { Schemas } from '../../api/client';
import { useAskOnce } from '../../api/queries';
import { shown, t } from '../../words/words';

const two = (n: number) => String(n).padStart(2, '0');

export type Schedule = Schemas['Schedule'];

interface Props {
  was?: Schedule;
  title: string;
  keep: (when: Schedule) => Promise<unknown>;
  touched: readonly (readonly unknown[])[];
  onClose: () => void;
}

/** Has something done by the clock: each hour, day or week, in a time zone. */
export function ScheduleForm({ was, title, keep: keeps, touched, onClose }: Props) {
  const [each, setEach] = useState(was?.each ?? '');
  const [minute, setMinute] = useState(was?.minute ?? 7 * 60);
  const [weekday, setWeekday] = useState(was?.weekday ?? 1);
  const [zone, setZone] = useState(was?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone);
  const keep = useAskOnce(
    () =>
      keeps({
        each,
        minute: each === 'hour' ? minute % 60 : minute,
        weekday: each === 'week' ? weekday : 0,
        zone,
      }),
    touched,
  );
  return (
    <Modal opened onClose={onClose} title={title} closeButtonProps={{ 'aria-label': t('page.close') }}>
      <form
        className="formstack"
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate(undefined, { onSuccess: onClose });
        }}
      >
        <Select
          label={t('sources.each')}
          data={[
            { value: '', label: t('sources.never') },
            { value: 'hour', label: t('sources.each_hour') },
            { value: 'day', label: t('sources.each_day') },
            { value: 'week', label: t('sources.each_week') },
          ]}
          value={each}
          allowDeselect={false}
          data-autofocus
          onChange={(e) => setEach((e ?? '') as typeof each)}
        />
        {each === 'week' && (
          <Select
            label={t('sources.weekday')}
            data={weekdays()}
            value={String(weekday)}
            allowDeselect={false}
            onChange={(d) => setWeekday(Number(d))}
          />
        )}
        {each === 'hour' && (
          <NumberInput
            hideControls
            label={t('sources.minute')}
            min={0}
            max={59}
            value={minute % 60}
            onChange={(n) => setMinute(Number(n) || 0)}
          />
        )}
        {(each === 'day' || each === 'week') && (
          <TextInput
            type="time"
            label={t('sources.time')}
            value={`${two(Math.floor(minute / 60))}:${two(minute % 60)}`}
            onChange={(e) => {
              const [h, m] = e.currentTarget.value.split(':');
              setMinute(Number(h) * 60 + Number(m));
            }}
          />
        )}
        {each && (
          <Select
            label={t('sources.zone')}
            data={zones(zone)}
            value={zone}
            searchable
            allowDeselect={false}
            onChange={(z) => setZone(z ?? 'UTC')}
          />
        )}
        <div className="row answers">
          <span className="grow" />
          <Button onClick={onClose}>{t('page.keep')}</Button>
          <Button type="submit" className="go" loading={keep.isPending}>
            {t('sources.save')}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

/** The days of a week in the language of the screens, from Monday on. */
function weekdays() {
  const name = new Intl.DateTimeFormat(shown(), { weekday: 'long', timeZone: 'UTC' });
  return [1, 2, 3, 4, 5, 6, 0].map((d) => ({ value: String(d), label: name.format(Date.UTC(2026, 1, 1 + d)) }));
}

const zones = (now: string) => [...new Set([now, 'UTC', ...Intl.supportedValuesOf('timeZone')])];
