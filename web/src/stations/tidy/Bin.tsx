import { Button, Modal, TextInput } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { useMemo, useState } from 'react';
import { gallery } from '../../api/gallery';
import { type BinnedFind, breaksQuery, limitsQuery, tidy, tidyQuery, useBin } from '../../api/tidy';
import { complain } from '../../ui/complain';
import { bytes, when } from '../../ui/format';
import { useMayAdmin } from '../../ui/mayAdmin';
import { useMayEdit } from '../../ui/session';
import { usePicks } from '../../ui/usePicks';
import { usePlanned } from '../../ui/usePlanned';
import { t } from '../../words/words';
import { pictureFirst, weight } from '../pictures/pictureColumns';
import { FindBoard } from './FindBoard';
import type { Focus } from './Tidy';

/** What waits to be deleted, and can be had back. */
export function Bin({ onFocus }: { onFocus: (f: Focus) => void }) {
  const finds = useBin();
  const counts = useQuery(tidyQuery).data;
  const limits = useQuery(limitsQuery).data;
  const mayEdit = useMayEdit();
  const mayAdmin = useMayAdmin();
  const { picked, toggle } = usePicks();
  const { busy, plan } = usePlanned();
  const [emptying, setEmptying] = useState(false);
  const some = [...picked];
  const columns = useMemo(
    () => [
      ...pictureFirst<BinnedFind>(picked),
      weight<BinnedFind>(),
      {
        id: 'since',
        name: t('tidy.binned_at'),
        width: '130px',
        className: 'clip',
        cell: (b: BinnedFind) => when(b.binnedAt),
        text: (b: BinnedFind) => b.binnedAt,
      },
      {
        id: 'goes',
        name: t('tidy.goes_at'),
        width: '130px',
        className: 'clip',
        cell: (b: BinnedFind) => (limits?.emptiesByClock ? when(b.goesAt) : t('tidy.goes_never')),
        text: (b: BinnedFind) => b.goesAt,
      },
    ],
    [picked, limits],
  );
  return (
    <>
      <FindBoard
        name="bin"
        title={t('tidy.bin')}
        says={t('tidy.bin_what', {
          count: counts?.binned ?? 0,
          bytes: bytes(counts?.binBytes ?? 0),
          days: limits?.binDays ?? 30,
        })}
        acts={
          <>
            {mayAdmin && (counts?.binned ?? 0) > 0 && (
              <Button onClick={() => setEmptying(true)}>{t('tidy.empty')}</Button>
            )}
            {mayEdit && some.length > 0 && (
              <Button
                className="go"
                loading={busy}
                onClick={() =>
                  void plan(() =>
                    gallery.plan({
                      act: 'restore',
                      pictures: some,
                      title: t('pictures.plan_restore', { count: some.length }),
                    }),
                  )
                }
              >
                {t('tidy.restore', { count: some.length })}
              </Button>
            )}
          </>
        }
        finds={finds}
        columns={columns}
        none={t('tidy.no_bin')}
        onAt={(b) => onFocus({ sha: b.sha })}
        picked={picked}
        id={(b) => b.id}
        onPick={toggle}
      />
      {emptying && (
        <EmptyForm count={counts?.binned ?? 0} size={counts?.binBytes ?? 0} onClose={() => setEmptying(false)} />
      )}
    </>
  );
}

/** Asks once more, by the number, before bytes are deleted for good; and says which runs can't be undone whole then. */
function EmptyForm({ count, size, onClose }: { count: number; size: number; onClose: () => void }) {
  const [typed, setTyped] = useState('');
  const [busy, setBusy] = useState(false);
  const breaks = useQuery(breaksQuery).data;
  const navigate = useNavigate();
  const queries = useQueryClient();
  const empty = async () => {
    setBusy(true);
    try {
      const { id } = await tidy.empty({ count, title: t('tidy.plan_empty') });
      void queries.invalidateQueries({ queryKey: ['tidy'] });
      void navigate({ to: '/ledger/$run', params: { run: String(id) } });
    } catch (error) {
      complain(error);
      setBusy(false);
    }
  };
  return (
    <Modal opened onClose={onClose} title={t('tidy.empty_title')} closeButtonProps={{ 'aria-label': t('page.close') }}>
      <p>{t('tidy.empty_what', { count, bytes: bytes(size) })}</p>
      {breaks && breaks.length > 0 && (
        <>
          <p className="wrong">{t('tidy.breaks', { count: breaks.length })}</p>
          <ul className="plain breaks">
            {breaks.map((b) => (
              <li key={b.run}>
                <Link to="/ledger/$run" params={{ run: String(b.run) }}>
                  {t('tidy.run', { run: b.run, title: b.title })}
                </Link>{' '}
                <span className="soft">{t('tidy.run_lines', { count: b.lines })}</span>
              </li>
            ))}
          </ul>
        </>
      )}
      {breaks?.length === 0 && <p className="soft">{t('tidy.breaks_none')}</p>}
      <TextInput
        data-autofocus
        label={t('tidy.empty_number', { n: count })}
        value={typed}
        inputMode="numeric"
        onChange={(e) => setTyped(e.currentTarget.value)}
      />
      <div className="row answers">
        <Button onClick={onClose}>{t('page.keep')}</Button>
        <Button
          className="go"
          loading={busy}
          disabled={typed.trim() !== String(count) || !breaks}
          onClick={() => void empty()}
        >
          {t('tidy.delete', { count })}
        </Button>
      </div>
    </Modal>
  );
}
