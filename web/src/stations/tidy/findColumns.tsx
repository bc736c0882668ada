import type { PictureCard } from '../../api/gallery';
import type { Column } from '../../ui/columns';
import { bytes } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { Thumb } from '../../ui/Thumb';
import { t } from '../../words/words';

/** What lists of finds show of a picture first; picked marks those that are. */
export const pictureFirst = <T extends PictureCard>(picked?: ReadonlySet<number>): Column<T>[] => [
  ...(picked
    ? [
        {
          id: 'picked',
          name: t('pictures.picked_column'),
          quiet: true,
          fixed: true,
          width: '24px',
          cell: (p: T) => (picked.has(p.id) ? '✓' : ''),
        },
      ]
    : []),
  {
    id: 'picture',
    name: t('column.picture'),
    quiet: true,
    fixed: true,
    width: '44px',
    cell: (p) => <Thumb sha={p.sha} size={36} />,
  },
  {
    id: 'name',
    name: t('pictures.name'),
    fixed: true,
    width: 'minmax(140px, 1.2fr)',
    className: 'mono clip',
    cell: (p) => plainly(p.name),
    text: (p) => p.path,
  },
];

export const pixels = <T extends PictureCard>(): Column<T> => ({
  id: 'pixels',
  name: t('pictures.size'),
  width: '100px',
  figures: true,
  wide: true,
  cell: (p) => `${p.width} × ${p.height}`,
  text: (p) => `${p.width} × ${p.height}`,
});

export const weight = <T extends PictureCard>(): Column<T> => ({
  id: 'bytes',
  name: t('pictures.bytes'),
  width: '76px',
  figures: true,
  wide: true,
  cell: (p) => bytes(p.bytes),
  text: (p) => p.bytes,
});

export const used = <T extends PictureCard>(): Column<T> => ({
  id: 'owner',
  name: t('pictures.used'),
  width: 'minmax(110px, 1fr)',
  className: 'mono clip',
  cell: (p) => (p.places > 1 ? t('pictures.places', { owner: p.owner ?? '', n: p.places - 1 }) : p.owner || '–'),
  text: (p) => p.owner,
});
