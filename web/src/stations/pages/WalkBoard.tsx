import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useMemo } from 'react';
import { askPages, useWalkItems, type WalkedItem, walkPicturesQuery, walkQuery } from '../../api/guides';
import { useAskOnce } from '../../api/queries';
import { isWorking, type Visit } from '../../api/sources';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { Empty } from '../../ui/Empty';
import { count } from '../../ui/format';
import { Progress } from '../../ui/Progress';
import { useMayEdit } from '../../ui/session';
import { useFocus } from '../../ui/useFocus';
import { say } from '../../words/messages';
import { named, t } from '../../words/words';
import type { Parts } from '../sources/parts';
import { Strip } from './Tried';
import './Pages.css';

interface Props extends Pick<Parts, 'rail' | 'top' | 'at' | 'onAt'> {
  visit: Visit;
  /** without: items without a picture; problem: those with a problem. */
  of?: 'without' | 'problem';
  onOf: (of?: 'without' | 'problem') => void;
}

/** What a walk read: each item with its title, SKU and pictures, and what is wrong. */
export function WalkBoard({ visit, of, onOf, rail, top, at, onAt }: Props) {
  const working = isWorking(visit);
  const walk = useQuery(walkQuery(visit.id, working)).data;
  const { items, more } = useWalkItems(visit.id, of, working);
  const lines = items ?? [];
  const focus = useFocus(lines, at);
  const cols = useMemo(() => columns(), []);
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const table = useAskOnce(() => askPages.table(visit.id), [['tables'], ['trail']]);
  const item = lines[focus];
  return (
    <Bench
      rail={rail}
      board={
        <>
          {top}
          {walk && (
            <div className="row visitbar walkbar">
              <p className="grow" role="status">
                {t('pages.walked', { pages: walk.pages, items: walk.items, read: walk.read, kept: walk.kept })}{' '}
                {walk.ended && walk.ended !== 'last' && (
                  <span className="wrong">{named(`pages.ended_${walk.ended}`)}</span>
                )}
                {walk.addresses && <span className="soft"> {t('pages.addresses_only')}</span>}
              </p>
              {(['without', 'problem'] as const).map((o) => (
                <Button
                  key={o}
                  size="compact-sm"
                  aria-pressed={of === o}
                  className={of === o ? 'on' : ''}
                  onClick={() => onOf(of === o ? undefined : o)}
                >
                  {named(`pages.of_${o}`)}
                  {o === 'without' && ` ${count(walk.without)}`}
                </Button>
              ))}
              {mayEdit && (
                <Button
                  size="compact-sm"
                  disabled={walk.read === 0}
                  loading={table.isPending}
                  onClick={() =>
                    table.mutate(undefined, {
                      onSuccess: ({ id }) => void navigate({ to: '/tables/$table', params: { table: String(id) } }),
                    })
                  }
                >
                  {t('pages.as_table')}
                </Button>
              )}
            </div>
          )}
          {working && walk && walk.items > walk.read + walk.failed && (
            <div className="padded">
              <Progress label={t('pages.walking')} done={walk.read + walk.failed} of={walk.items} />
            </div>
          )}
          {lines.length > 0 ? (
            <Board
              name="walk"
              label={t('pages.items_walked')}
              lines={lines}
              columns={cols}
              at={focus}
              onAt={(n) => onAt(lines[n]?.id)}
              onMore={more}
              autoFocus
            />
          ) : (
            items && (
              <Empty title={t('pages.no_items')}>
                <p>{t('pages.no_items_what')}</p>
              </Empty>
            )
          )}
        </>
      }
      glass={item && <ItemGlass walk={visit.id} item={item} />}
    />
  );
}

function ItemGlass({ walk, item }: { walk: number; item: WalkedItem }) {
  const all = useQuery(walkPicturesQuery(walk, item.n)).data ?? [];
  const kept = all.filter((p) => p.order > 0);
  const left = all.filter((p) => p.order === 0);
  return (
    <div className="visitglass">
      <h2>{item.title || t('pages.no_title')}</h2>
      <p className="mono wrap">{[item.sku, item.barcode].filter(Boolean).join(' · ')}</p>
      <a className="mono wrap" href={item.address} target="_blank" rel="noreferrer noopener">
        {item.address}
      </a>
      {say(item.message) && <p className="wrong wrap">{say(item.message)}</p>}
      {item.failed.map((step) => (
        <p key={step} className="wrong">
          {t('pages.step_failed', { step: named(`pages.step_${step}`) })}
        </p>
      ))}
      {item.state === 'read' && item.kept === 0 && <p className="notice">{t('pages.take_saved')}</p>}
      <Strip pictures={kept.map((p) => ({ ...p, remarks: p.remarks as { code: string }[] }))} />
      {left.length > 0 && (
        <details>
          <summary>{t('pages.left_out', { count: left.length })}</summary>
          <ul className="leftout">
            {left.map((p) => (
              <li key={p.n}>
                <span className="mono wrap">{p.address}</span>
                <span>{say(p.message)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

const columns = (): Column<WalkedItem>[] => [
  { id: 'n', name: '№', width: '44px', figures: true, fixed: true, cell: (i) => count(i.n), text: (i) => i.n },
  {
    id: 'title',
    name: t('pages.col_title'),
    fixed: true,
    width: 'minmax(140px, 1.4fr)',
    className: 'two',
    cell: (i) => (
      <>
        <span className="clip">{i.title || <span className="soft">{named(`pages.item_${i.state}`)}</span>}</span>
        <span className="soft mono clip" title={i.address}>
          {i.address.replace(/^https?:\/\/[^/]*/, '')}
        </span>
      </>
    ),
    text: (i) => i.title,
  },
  {
    id: 'sku',
    name: t('pages.col_sku'),
    width: '148px',
    className: 'two',
    cell: (i) => (
      <>
        <span className="mono clip">{i.sku}</span>
        <span className="soft mono clip">{i.barcode}</span>
      </>
    ),
    text: (i) => i.sku,
  },
  {
    id: 'kept',
    name: t('pages.col_pictures'),
    width: '68px',
    figures: true,
    cell: (i) => (i.state === 'read' ? count(i.kept) : ''),
    text: (i) => i.kept,
  },
  {
    id: 'largest',
    name: t('pages.col_size'),
    width: '108px',
    figures: true,
    wide: true,
    cell: (i) => sizeOf(i),
    text: (i) => sizeOf(i),
  },
  {
    id: 'problem',
    name: t('pages.col_problem'),
    width: 'minmax(120px, 1fr)',
    className: 'two',
    cell: (i) => (
      <span className="wrong clip" title={problemOf(i)}>
        {problemOf(i)}
      </span>
    ),
    text: (i) => problemOf(i),
  },
];

const sizeOf = ({ pictures: [main] }: WalkedItem) => (main?.width ? `${main.width} × ${main.height}` : '');

function problemOf(i: WalkedItem): string {
  if (i.message) return say(i.message);
  if (i.failed.length > 0)
    return t('pages.step_failed', { step: i.failed.map((s) => named(`pages.step_${s}`)).join(', ') });
  return i.state === 'read' && i.kept === 0 ? t('pages.none_kept') : '';
}
