import { Button } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { Link, useNavigate, useSearch } from '@tanstack/react-router';
import { lazy, Suspense, useMemo, useRef, useState } from 'react';
import { type PicturedOwner, usePictured } from '../../api/hand';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { copy } from '../../ui/copy';
import { Empty } from '../../ui/Empty';
import { FilterField } from '../../ui/FilterField';
import { useMayEdit } from '../../ui/session';
import { useFocus } from '../../ui/useFocus';
import { useKeys } from '../../ui/useKeys';
import { useTitle } from '../../ui/useTitle';
import { t } from '../../words/words';
import { CatalogueRail } from './CatalogueRail';
import { takeBack, useDraft } from './draft';
import { HandBar } from './HandBar';
import { columns } from './handColumns';
import { OwnerHand } from './OwnerHand';
import './Hand.css';

const Everywhere = lazy(() => import('./Everywhere').then((m) => ({ default: m.Everywhere })));
const OwnerForm = lazy(() => import('./OwnerForm').then((m) => ({ default: m.OwnerForm })));
const Offers = lazy(() => import('./Offers').then((m) => ({ default: m.Offers })));

/** Owners with their pictures, one row each, for going through many and changing them where they are seen. */
export function HandOn({ kind }: { kind: 'product' | 'category' }) {
  const search = useSearch({ strict: false });
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const draft = useDraft();
  const field = useRef<HTMLInputElement>(null);
  const [q] = useDebouncedValue(search.q?.trim() || undefined, search.q ? 60 : 0);
  const [open, setOpen] = useState<'everywhere' | 'new' | 'edit'>();
  const view = kind === 'category' ? 'categories' : 'pictures';
  const path = kind === 'category' ? '/catalogue/categories' : '/catalogue/pictures';
  const filter = { kind, in: search.in, q, without: search.show === 'without', retired: search.show === 'retired' };
  const pages = usePictured(filter);
  const lines = useMemo(() => pages.all ?? [], [pages.all]);
  const focus = useFocus(lines, search.at);
  const line = lines[focus];
  const cols = useMemo(() => columns(draft, kind), [draft, kind]);
  useTitle('catalogue', line?.label);
  const find = () => field.current?.focus();
  useKeys([
    ['/', find, { preventDefault: true }],
    ['f', find, { preventDefault: true }],
    ['z', () => takeBack()],
    ['e', () => mayEdit && line && setOpen('edit')],
    ['n', () => mayEdit && setOpen('new')],
  ]);
  const go = (part: { q?: string; at?: number }) =>
    void navigate({ to: path, search: (s) => ({ ...s, ...part }), replace: true });
  const customer = (o: PicturedOwner) =>
    void navigate({ to: '/catalogue/shop/$owner', params: { owner: String(o.id) } });
  if (pages.error)
    return <Bench rail={null} glass={null} board={<Empty title={t('hand.cant')}>{pages.error.message}</Empty>} />;
  return (
    <Bench
      rail={<CatalogueRail view={view} />}
      board={
        <>
          <header className="top row">
            <div className="grow">
              <h1>{t(kind === 'category' ? 'hand.categories' : 'hand.pictures')}</h1>
              <p className="soft">
                {pages.whole ? t('hand.count', { count: lines.length }) : t('hand.first', { n: lines.length })}
              </p>
            </div>
            <FilterField ref={field} label={t('catalogue.filter')} value={search.q ?? ''} onChange={(q) => go({ q })} />
            {mayEdit && (
              <>
                <Button onClick={() => setOpen('new')}>
                  {t(kind === 'category' ? 'hand.new_category' : 'hand.new_product')}
                </Button>
                <Button onClick={() => setOpen('everywhere')}>{t('hand.everywhere')}</Button>
              </>
            )}
          </header>
          {kind === 'category' && search.show === 'without' && (
            <Suspense>
              <Offers shown={lines} mayEdit={mayEdit} />
            </Suspense>
          )}
          {lines.length > 0 ? (
            <Board
              name={`hand-${kind}`}
              label={t(kind === 'category' ? 'hand.categories' : 'hand.pictures')}
              lines={lines}
              total={pages.total ?? (pages.whole ? lines.length : -1)}
              at={focus}
              height={58}
              narrowHeight={100}
              onMore={pages.more}
              onAll={pages.fetchAll}
              onAt={(n) => go({ at: lines[n]?.id })}
              onOpen={(n) => lines[n] && customer(lines[n])}
              lineClass={(o) => (draft[o.id] ? 'edited' : o.retired ? 'faint' : undefined)}
              columns={cols}
              acts={(o) => [
                { name: t('hand.as_customer'), key: 'Enter', does: () => customer(o) },
                { name: t('hand.edit_fields'), key: 'e', does: () => setOpen('edit'), off: !mayEdit },
                { name: t('act.copy_sku'), key: 'Ctrl C', does: () => void copy(o.sku || o.code || o.label) },
              ]}
              autoFocus={!search.q}
            />
          ) : pages.all ? (
            <Empty title={t('hand.none')}>
              <p>{t('hand.none_what')}</p>
            </Empty>
          ) : (
            <div className="hush">{t('catalogue.reading')}</div>
          )}
          <Suspense>
            {open === 'everywhere' && <Everywhere kind={kind} filter={filter} onClose={() => setOpen(undefined)} />}
            {(open === 'new' || open === 'edit') && (
              <OwnerForm
                key={open === 'edit' ? line?.id : 'new'}
                owner={open === 'edit' ? line : undefined}
                kind={open === 'edit' && line ? (line.kind as 'product') : kind}
                within={search.in}
                onClose={() => setOpen(undefined)}
              />
            )}
          </Suspense>
        </>
      }
      glass={
        line && (
          <>
            <OwnerHand key={line.id} owner={line} mayEdit={mayEdit} onFields={() => setOpen('edit')} />
            <p>
              <Link to="/catalogue/shop/$owner" params={{ owner: String(line.id) }}>
                {t('hand.as_customer')}
              </Link>
            </p>
          </>
        )
      }
      foot={<HandBar at={focus} of={lines.length} mayEdit={mayEdit} />}
    />
  );
}

export const Pictures = () => <HandOn key="product" kind="product" />;
export const Categories = () => <HandOn key="category" kind="category" />;
