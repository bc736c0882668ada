import { useDebouncedValue } from '@mantine/hooks';
import { useNavigate, useSearch } from '@tanstack/react-router';
import { lazy, Suspense, useMemo, useRef, useState } from 'react';
import { gallery, type PictureCard, usePictures } from '../../api/gallery';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { complain } from '../../ui/complain';
import { copy } from '../../ui/copy';
import { DropArea } from '../../ui/DropArea';
import { Empty } from '../../ui/Empty';
import { FilterField } from '../../ui/FilterField';
import { count } from '../../ui/format';
import { useKeys } from '../../ui/useKeys';
import { useTitle } from '../../ui/useTitle';
import { t } from '../../words/words';
import { PictureBar } from './PictureBar';
import { PictureGlass } from './PictureGlass';
import { PictureRail } from './PictureRail';
import { pictureColumns } from './pictureColumns';
import { useAlike } from './useAlike';
import { usePickedPictures } from './usePickedPictures';
import { Wall } from './Wall';
import './Pictures.css';

const Zoom = lazy(() => import('./Zoom').then((m) => ({ default: m.Zoom })));

/** The most that is counted. */
const COUNTED = 10_000;
const many = (n: number) => (n > COUNTED ? `${count(COUNTED)}+` : count(n));

/** The station of all pictures, as a wall or as lines. */
export function Pictures() {
  const search = useSearch({ strict: false });
  const navigate = useNavigate();
  const field = useRef<HTMLInputElement>(null);
  const [zoom, setZoom] = useState<string>();
  const [q] = useDebouncedValue(search.q?.trim() || undefined, 150);
  const wanted = useMemo(
    () => ({ q, is: search.show, source: search.in, like: search.side }),
    [q, search.show, search.in, search.side],
  );
  const pictures = usePictures(wanted);
  const lines = pictures.all ?? [];
  const at = Math.max(
    0,
    lines.findIndex((p) => p.id === search.at),
  );
  const line = lines[at];
  const picked = usePickedPictures(lines);
  const go = (part: Partial<typeof search>) =>
    void navigate({ to: '/pictures', search: { ...search, ...part }, replace: true });
  const onAt = (n: number, event?: { shift: boolean }) => {
    if (event?.shift) picked.through(at, n);
    go({ at: lines[n]?.id });
  };
  const filter = () => field.current?.focus();
  const all = () => void gallery.numbers(wanted).then(picked.set, complain);
  useKeys([
    ['/', filter, { preventDefault: true }],
    ['f', filter, { preventDefault: true }],
    ['mod+a', all, { preventDefault: true }],
    ['Escape', picked.clear],
  ]);
  useTitle('pictures');
  const alike = useAlike((like, sha) => go({ side: like, at: lines.find((p) => p.sha === sha)?.id }));
  const cols = useMemo(() => pictureColumns(picked), [picked]);
  const acts = (p: PictureCard) => [
    { name: t('pictures.large'), key: 'Enter', does: () => setZoom(p.sha) },
    { name: t('pictures.pick'), key: ' ', does: () => picked.toggle(p.id) },
    {
      name: t('pictures.find_like'),
      key: 'l',
      does: () => go({ side: p.likeness, q: undefined, show: undefined }),
      off: !p.likeness,
    },
    { name: t('pictures.copy_name'), key: 'Ctrl C', does: () => void copy(p.name) },
  ];
  const onKey = (key: string) => {
    if (key === ' ' && line) picked.toggle(line.id);
    else return false;
    return true;
  };
  if (pictures.error)
    return (
      <Bench rail={null} glass={null} board={<Empty title={t('pictures.cant')}>{pictures.error.message}</Empty>} />
    );
  const asLines = search.view === 'lines';
  return (
    <DropArea says={t('pictures.drop')} off={false} onDrop={alike.drop}>
      <Bench
        rail={<PictureRail found={pictures.found} search={search} go={go} />}
        board={
          <>
            <header className="top row">
              <div className="grow">
                <h1>{t('station.pictures')}</h1>
                <p className="soft">
                  {search.side
                    ? t('pictures.alike', { count: pictures.found?.count ?? 0, n: many(pictures.found?.count ?? 0) })
                    : t('pictures.count', { count: pictures.found?.count ?? 0, n: many(pictures.found?.count ?? 0) })}
                  {search.side && (
                    <button type="button" className="plainlink" onClick={() => go({ side: undefined })}>
                      {t('pictures.all_again')}
                    </button>
                  )}
                </p>
              </div>
              <FilterField
                ref={field}
                label={t('pictures.filter')}
                value={search.q ?? ''}
                onChange={(q) => go({ q })}
              />
              {alike.button}
              <button type="button" className="button" onClick={() => go({ view: asLines ? undefined : 'lines' })}>
                {t(asLines ? 'pictures.as_wall' : 'pictures.as_lines')}
              </button>
            </header>
            {lines.length > 0 && asLines && (
              <Board
                name="pictures"
                label={t('station.pictures')}
                lines={lines}
                total={pictures.whole ? lines.length : -1}
                at={at}
                onAt={onAt}
                onMore={pictures.more}
                onAll={pictures.fetchAll}
                onKey={onKey}
                onOpen={(n) => setZoom(lines[n]?.sha)}
                selected={(p) => picked.has(p.id)}
                columns={cols}
                width={1120}
                acts={acts}
                autoFocus={!search.q}
              />
            )}
            {lines.length > 0 && !asLines && (
              <Wall
                lines={lines}
                at={at}
                onAt={onAt}
                onMore={pictures.more}
                has={picked.has}
                toggle={picked.toggle}
                acts={acts}
                autoFocus={!search.q}
              />
            )}
            {pictures.all && lines.length === 0 && (
              <Empty title={t('pictures.none')}>
                <p>{t('pictures.none_what')}</p>
              </Empty>
            )}
            {!pictures.all && <div className="hush">{t('pictures.reading')}</div>}
            <Suspense>{zoom && <Zoom sha={zoom} onClose={() => setZoom(undefined)} />}</Suspense>
          </>
        }
        glass={
          line && (
            <PictureGlass sha={line.sha} onLarge={() => setZoom(line.sha)} onLike={(like) => go({ side: like })} />
          )
        }
        foot={<PictureBar picked={picked} onAll={all} lines={lines} at={line} />}
      />
    </DropArea>
  );
}
