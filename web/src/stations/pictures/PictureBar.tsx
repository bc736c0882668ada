import { Button, Menu } from '@mantine/core';
import { lazy, Suspense, useState } from 'react';
import { gallery, type PictureAct, type PictureCard } from '../../api/gallery';
import { complain } from '../../ui/complain';
import { useMayEdit } from '../../ui/session';
import { usePlanned } from '../../ui/usePlanned';
import { t } from '../../words/words';
import { ShotsButton } from '../shots/ShotsButton';
import type { Picked } from './usePickedPictures';

const PlaceForm = lazy(() => import('./PlaceForm').then((m) => ({ default: m.PlaceForm })));
const ReplaceForm = lazy(() => import('./ReplaceForm').then((m) => ({ default: m.ReplaceForm })));
const SayForm = lazy(() => import('./SayForm').then((m) => ({ default: m.SayForm })));

interface Props {
  picked: Picked;
  onAll: () => void;
  lines: PictureCard[];
  /** The picture in focus, which is meant where none is picked. */
  at?: PictureCard;
}

/** What is done with the pictures that are picked, or with the one in focus: each makes a plan. */
export function PictureBar({ picked, onAll, lines, at }: Props) {
  const mayEdit = useMayEdit();
  const [open, setOpen] = useState<'place' | 'replace' | 'tag' | 'note' | 'rights'>();
  const { busy, plan: planned } = usePlanned();
  const ids = picked.ids.length ? picked.ids : at ? [at.id] : [];
  const plan = (act: PictureAct) => planned(() => gallery.plan(act));
  const act = (name: PictureAct['act'], title: Parameters<typeof t>[0]) =>
    void plan({ act: name, pictures: ids, title: t(title, { count: ids.length }) });
  const zip = async () => {
    try {
      window.location.assign(`/api/downloads/${(await gallery.zip(ids)).ticket}`);
    } catch (error) {
      complain(error);
    }
  };
  if (ids.length === 0) return null;
  return (
    <>
      <span className="grow">
        {picked.ids.length ? t('pictures.picked', { count: picked.ids.length }) : t('pictures.one_meant')}
        {picked.ids.length ? (
          <button type="button" className="plainlink" onClick={picked.clear}>
            {t('pictures.pick_none')}
          </button>
        ) : (
          <button type="button" className="plainlink" onClick={onAll}>
            {t('pictures.pick_all')}
          </button>
        )}
      </span>
      <Button size="compact-sm" onClick={zip}>
        {t('pictures.zip')}
      </Button>
      <ShotsButton of={{ pictures: ids }} title={t('station.pictures')} name={t('pictures.table')} size="compact-sm" />
      {mayEdit && (
        <>
          <Menu position="top-end">
            <Menu.Target>
              <Button size="compact-sm">{t('pictures.more')}</Button>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Item onClick={() => setOpen('replace')}>{t('pictures.replace')}</Menu.Item>
              <Menu.Item onClick={() => act('placeholder', 'pictures.plan_placeholder')}>
                {t('pictures.mark_placeholder')}
              </Menu.Item>
              <Menu.Item onClick={() => act('no_placeholder', 'pictures.plan_no_placeholder')}>
                {t('pictures.unmark_placeholder')}
              </Menu.Item>
              <Menu.Item onClick={() => setOpen('tag')}>{t('pictures.tag')}</Menu.Item>
              <Menu.Item onClick={() => setOpen('note')}>{t('pictures.add_note')}</Menu.Item>
              <Menu.Item onClick={() => setOpen('rights')}>{t('pictures.set_rights')}</Menu.Item>
              <Menu.Item onClick={() => act('restore', 'pictures.plan_restore')}>{t('pictures.restore')}</Menu.Item>
            </Menu.Dropdown>
          </Menu>
          <Button size="compact-sm" loading={busy} onClick={() => act('bin', 'pictures.plan_bin')}>
            {t('pictures.bin', { count: ids.length })}
          </Button>
          <Button size="compact-sm" className="go" onClick={() => setOpen('place')}>
            {t('pictures.place')}
          </Button>
        </>
      )}
      <Suspense>
        {open === 'place' && <PlaceForm ids={ids} onPlan={plan} onClose={() => setOpen(undefined)} />}
        {open === 'replace' && <ReplaceForm ids={ids} lines={lines} onPlan={plan} onClose={() => setOpen(undefined)} />}
        {(open === 'tag' || open === 'note' || open === 'rights') && (
          <SayForm what={open} ids={ids} onPlan={plan} onClose={() => setOpen(undefined)} />
        )}
      </Suspense>
    </>
  );
}
