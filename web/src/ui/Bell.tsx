import { Menu, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useRouter } from '@tanstack/react-router';
import { useEffect, useRef, useState } from 'react';
import type { Notice } from '../api/client';
import { ask, noticesQuery, useAsk } from '../api/queries';
import { sayAll } from '../words/messages';
import { count, named, t, when } from '../words/words';
import { say } from './complain';
import { Shape } from './Grade';
import { setUnread } from './useTitle';
import './Bell.css';

/** What ended of all that one asked for: told once by a quiet note, kept here until it is read. */
export function Bell() {
  const data = useQuery(noticesQuery).data;
  const unread = data?.unread ?? 0;
  const notices = data?.notices ?? [];
  const read = useAsk(ask.readNotices, [['notices']]);
  const router = useRouter();
  const [fresh, setFresh] = useState<ReadonlySet<number>>(new Set());
  const told = useRef<number>(undefined);
  const newest = notices[0];
  useEffect(() => setUnread(unread), [unread]);
  useEffect(() => {
    if (!data) return;
    const before = told.current;
    told.current = data.notices[0]?.id ?? 0;
    if (before === undefined) return; // what ended before the page was opened is not told again
    for (const n of data.notices.filter((n) => n.id > before && !n.readAt).reverse()) say(sentence(n));
  }, [data]);
  /** What had not been read when the bell was opened is told apart as long as it is open. */
  const onOpen = () => {
    setFresh(new Set(notices.filter((n) => !n.readAt).map((n) => n.id)));
    if (newest && unread > 0) read.mutate(newest.id);
  };
  return (
    <Menu position="bottom-end" width={380} onOpen={onOpen}>
      <Menu.Target>
        <UnstyledButton className="bell" aria-label={t('bell.name', { n: unread })}>
          <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden focusable="false">
            <path
              d="M8 2a4 4 0 0 0-4 4v3l-1.5 2.5h11L12 9V6a4 4 0 0 0-4-4zM6.5 13.5h3"
              fill="none"
              stroke="currentColor"
              strokeWidth="1.3"
            />
          </svg>
          {unread > 0 && <span className="waits">{count(unread)}</span>}
        </UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>{t('bell.title')}</Menu.Label>
        {notices.length === 0 && <Menu.Item disabled>{t('bell.none')}</Menu.Item>}
        {notices.map((n) => (
          <Menu.Item
            key={n.id}
            component="a"
            href={place(n)}
            onClick={(e) => {
              e.preventDefault();
              router.history.push(place(n));
            }}
          >
            <span className={fresh.has(n.id) ? 'unread' : undefined}>
              <Shape grade={n.state === 'done' ? 'sure' : 'contested'} /> {sentence(n)}
            </span>
            <br />
            <span className="soft">{when(n.at)}</span>
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

function sentence({ kind, title, state, done, unit, notes }: Notice): string {
  const data = { title, n: done, unit: named(`unit.${unit}`) || unit };
  const said = named(`bell.${kind}_${state}`, data) || t(`bell.${state}`, data);
  return [said, sayAll(notes)].filter(Boolean).join(' ');
}

/** Where what became of it is seen. */
const place = ({ kind, subject }: Notice) =>
  kind === 'run'
    ? `/ledger/${subject}`
    : kind === 'worksheet'
      ? `/tables/${subject}`
      : kind === 'reconcile'
        ? `/gather/${subject}?show=reconcile`
        : kind === 'tidy_plan'
          ? `/plan/${subject}`
          : kind === 'publishing'
            ? `/publish?in=${subject}`
            : `/gather?in=${subject}`;
