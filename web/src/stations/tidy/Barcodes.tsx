import { Button } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { useMemo, useState } from 'react';
import { useAskOnce } from '../../api/queries';
import { type PackFind, tidy, usePacks } from '../../api/tidy';
import type { Column } from '../../ui/columns';
import { say } from '../../ui/complain';
import { useMayEdit } from '../../ui/session';
import { Thumb } from '../../ui/Thumb';
import { sayAll } from '../../words/messages';
import { t } from '../../words/words';
import { FindBoard } from './FindBoard';
import type { Focus } from './Tidy';

const MOST = 500;

/** Owners whose pictures show another barcode than the catalogue has, and the plan that corrects it. */
export function Barcodes({ onFocus }: { onFocus: (f: Focus) => void }) {
  const finds = usePacks();
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const plan = useAskOnce(tidy.correct, [['tidy']]);
  const clear = (finds.all ?? []).filter((p) => p.clear).map((p) => p.owner);
  const chosen = (picked.size > 0 ? clear.filter((o) => picked.has(o)) : clear).slice(0, MOST);
  const correct = () =>
    plan.mutate(
      { owners: chosen },
      {
        onSuccess: (made) =>
          made.plan
            ? void navigate({ to: '/plan/$plan', params: { plan: String(made.plan) } })
            : say(sayAll(made.wrong?.map((w) => w.why) ?? [])),
      },
    );
  const columns = useMemo(packColumns, []);
  return (
    <FindBoard
      name="packs"
      title={t('tidy.barcodes')}
      says={t('tidy.barcodes_what')}
      acts={
        mayEdit &&
        chosen.length > 0 && (
          <Button className="go" loading={plan.isPending} onClick={correct}>
            {t('tidy.barcodes_plan', { count: chosen.length })}
          </Button>
        )
      }
      finds={finds}
      columns={columns}
      none={t('tidy.no_barcodes')}
      onAt={(p) => onFocus({ sha: p.sha })}
      onOpen={(p) => void navigate({ to: '/catalogue/shop/$owner', params: { owner: String(p.owner) } })}
      picked={picked}
      id={(p) => p.owner}
      onPick={(id) =>
        setPicked((now) => {
          const next = new Set(now);
          if (!next.delete(id)) next.add(id);
          return next;
        })
      }
    />
  );
}

const packColumns = (): Column<PackFind>[] => [
  {
    id: 'picture',
    name: t('column.picture'),
    fixed: true,
    width: '48px',
    cell: (p) => <Thumb sha={p.sha} size={36} />,
    text: () => '',
  },
  {
    id: 'sku',
    name: t('column.sku'),
    fixed: true,
    width: 'minmax(120px, 1fr)',
    className: 'mono clip',
    cell: (p) => p.sku || '–',
    text: (p) => p.sku,
  },
  {
    id: 'title',
    name: t('column.title'),
    width: 'minmax(120px, 1fr)',
    className: 'clip',
    cell: (p) => p.label,
    text: (p) => p.label,
  },
  {
    id: 'has',
    name: t('tidy.barcode_has'),
    width: '130px',
    className: 'mono',
    cell: (p) => p.barcode || t('tidy.barcode_none'),
    text: (p) => p.barcode ?? '',
  },
  {
    id: 'shows',
    name: t('tidy.barcode_shows'),
    width: 'minmax(140px, 1fr)',
    className: 'mono clip',
    cell: (p) => (p.clear ? p.shows : t('tidy.barcode_several', { code: p.shows })),
    text: (p) => p.shows,
  },
];
