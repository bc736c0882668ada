import { useNavigate } from '@tanstack/react-router';
import { type GapFind, useGaps } from '../../api/tidy';
import type { Column } from '../../ui/columns';
import { named, t } from '../../words/words';
import { FindBoard } from './FindBoard';
import { LimitsButton } from './LimitsForm';
import type { Focus } from './Tidy';

/** Owners that miss one thing. */
export function Gaps({
  gaps,
  within,
  onFocus,
  go,
}: {
  gaps: string;
  within?: number;
  onFocus: (f: Focus) => void;
  go: (show: string) => void;
}) {
  const finds = useGaps(gaps, within);
  const navigate = useNavigate();
  return (
    <FindBoard
      name="gaps"
      title={named(`tidy.gap_${gaps}`)}
      says={named(`tidy.what_${gaps}`)}
      acts={
        <>
          {within && (
            <button type="button" className="button" onClick={() => go(`gap.${gaps}`)}>
              {t('tidy.all_categories')}
            </button>
          )}
          <LimitsButton />
        </>
      }
      finds={finds}
      columns={gapColumns()}
      none={t('tidy.no_gaps')}
      onAt={(g) => onFocus({ owner: g.owner })}
      onOpen={(g) => void navigate({ to: '/catalogue/shop/$owner', params: { owner: String(g.owner) } })}
    />
  );
}

const gapColumns = (): Column<GapFind>[] => [
  {
    id: 'sku',
    name: t('column.sku'),
    fixed: true,
    width: 'minmax(120px, 0.8fr)',
    className: 'mono clip',
    cell: (g) => g.sku || '–',
    text: (g) => g.sku,
  },
  {
    id: 'title',
    name: t('column.title'),
    fixed: true,
    width: 'minmax(140px, 1.4fr)',
    className: 'clip',
    cell: (g) => g.label,
    text: (g) => g.label,
  },
  {
    id: 'kind',
    name: t('tidy.kind'),
    width: '90px',
    wide: true,
    cell: (g) => named(`owner.${g.kind}`),
    text: (g) => g.kind,
  },
  {
    id: 'gaps',
    name: t('tidy.misses'),
    width: 'minmax(160px, 1.2fr)',
    className: 'clip',
    cell: (g) => g.gaps.map((x) => named(`tidy.gap_${x}`)).join(', '),
    text: (g) => g.gaps.join(', '),
  },
];
