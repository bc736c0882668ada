import type { PictureCard } from '../../api/gallery';
import type { Column } from '../../ui/columns';
import { bytes, when } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { Thumb } from '../../ui/Thumb';
import { named, t } from '../../words/words';

const shape = (p: PictureCard) => named(`pictures.is_${p.shape}`);

/** What lists show of a picture first; picked says which are. */
export const pictureFirst = <T extends PictureCard>(picked?: { has: (id: number) => boolean }): Column<T>[] => [
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

/** What is seen of a picture on a line. */
export const pictureColumns = (picked: { has: (id: number) => boolean }): Column<PictureCard>[] => [
  ...pictureFirst<PictureCard>(picked),
  used(),
  pixels(),
  {
    id: 'source',
    name: t('pictures.source'),
    width: 'minmax(90px, 1fr)',
    className: 'clip',
    wide: true,
    cell: (p) => p.source ?? '',
    text: (p) => p.source,
  },
  weight(),
  { id: 'format', name: t('pictures.format'), width: '60px', wide: true, cell: (p) => p.format, text: (p) => p.format },
  { id: 'shape', name: t('pictures.shape'), width: '62px', wide: true, cell: shape, text: shape },
  {
    id: 'colours',
    name: t('pictures.colours'),
    width: '62px',
    wide: true,
    cell: (p) => (
      <span className="swatches" role="img" aria-label={p.colours.join(', ')}>
        {p.colours.map((c) => (
          <i key={c} style={{ background: c }} />
        ))}
      </span>
    ),
    text: (p) => p.colours.join(' '),
  },
  {
    id: 'rights',
    name: t('pictures.group_cleared'),
    width: '84px',
    className: 'clip',
    wide: true,
    cell: (p) => (p.may ? named(`pictures.is_${p.may}`) : '–'),
    text: (p) => p.may,
  },
  {
    id: 'since',
    name: t('pictures.since'),
    width: '112px',
    className: 'clip',
    wide: true,
    cell: (p) => when(p.cameAt),
    text: (p) => p.cameAt,
  },
];
