import type { PicturedOwner } from '../../api/hand';
import type { Column } from '../../ui/columns';
import { Strip } from '../../ui/Thumb';
import { named, t } from '../../words/words';
import { type Draft, picturesOf } from './draft';

/** What is seen of an owner with its pictures. */
export const columns = (draft: Draft, kind: 'product' | 'category'): Column<PicturedOwner>[] => [
  {
    id: 'owner',
    name: t('column.owner'),
    fixed: true,
    width: 'minmax(150px, 1.1fr)',
    className: 'two',
    cell: (o) => (
      <>
        <b className={kind === 'category' ? 'clip' : o.kind === 'variant' ? 'mono clip below' : 'mono clip'}>
          {kind === 'category' ? o.label : o.sku}
        </b>
        <span className={o.kind === 'variant' ? 'soft clip below' : 'soft clip'}>
          {kind === 'category' ? o.path : o.label}
        </span>
      </>
    ),
    text: (o) => o.sku || o.path || o.label,
  },
  {
    id: 'kind',
    name: t('hand.kind'),
    width: '84px',
    wide: true,
    cell: (o) => <span className="soft">{named(`owner.${o.kind}`)}</span>,
    text: (o) => o.kind,
  },
  {
    id: 'pictures',
    name: t('hand.in_order'),
    fixed: true,
    width: 'minmax(190px, 1.6fr)',
    cell: (o) => {
      const stands = o.pictures.map((p) => p.sha);
      return <Strip shas={picturesOf(o, draft)} size={42} most={7} was={draft[o.id] ? stands : undefined} />;
    },
    text: (o) => o.pictures.length,
  },
  {
    id: 'texts',
    name: t('hand.alt_texts'),
    width: '92px',
    figures: true,
    wide: true,
    cell: (o) => {
      const said = o.pictures.filter((p) => p.text).length;
      return o.pictures.length ? t('hand.n_of', { n: said, of: o.pictures.length }) : '–';
    },
    text: (o) => o.pictures.filter((p) => p.text).length,
  },
];
