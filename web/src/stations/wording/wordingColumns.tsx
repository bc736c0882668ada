import type { PicturedOwner, TextPicture } from '../../api/hand';
import type { Column } from '../../ui/columns';
import { Thumb } from '../../ui/Thumb';
import { named, t } from '../../words/words';

/** One picture on one owner, and what is said of it. */
export interface TextLine {
  id: number;
  key: string;
  owner: number;
  sku: string;
  label: string;
  place: number;
  asset: number;
  sha: string;
  name: string;
  text: string;
  hand: boolean;
  next?: string;
  problems: string[];
}

/** A line each picture of owners, in their order. */
export const textLines = (owners: PicturedOwner[]): TextLine[] =>
  owners.flatMap((o) => o.pictures.map((p, i) => textLine(o, p, i)));

const textLine = (o: PicturedOwner, p: TextPicture, i: number): TextLine => ({
  id: o.id * 1000 + i,
  key: `${o.id} ${p.asset}`,
  owner: o.id,
  sku: o.sku || o.code || '',
  label: o.label,
  place: i + 1,
  asset: p.asset,
  sha: p.sha,
  name: p.name ?? '',
  text: p.text ?? '',
  hand: p.hand ?? false,
  next: p.then,
  problems: p.problems ?? [],
});

/** What is seen of a picture's text. */
export const columns = (texts: Map<string, string>, picked: Set<string>, acting: boolean): Column<TextLine>[] => [
  {
    id: 'picture',
    name: t('column.picture'),
    quiet: true,
    fixed: true,
    width: '54px',
    cell: (l) => <Thumb sha={l.sha} size={42} />,
  },
  {
    id: 'owner',
    name: t('column.owner'),
    fixed: true,
    width: 'minmax(130px, 0.8fr)',
    className: 'two',
    cell: (l) => (
      <>
        <b className="mono clip">
          {picked.has(l.key) ? '✓ ' : ''}
          {l.sku || l.label}
        </b>
        <span className="soft clip">
          {l.place}. {l.label}
        </span>
      </>
    ),
    text: (l) => l.sku || l.label,
  },
  {
    id: 'text',
    name: t('wording.text'),
    fixed: true,
    width: 'minmax(200px, 2fr)',
    className: 'said',
    cell: (l) => {
      const then = texts.get(l.key) ?? (acting ? l.next : undefined);
      if (then === undefined)
        return <span className={l.text ? 'clamp' : 'soft'}>{l.text || t('wording.no_text')}</span>;
      return (
        <span className="clamp">
          {l.text && <span className="struck soft">{l.text}</span>} <b>{then || t('wording.goes')}</b>
        </span>
      );
    },
    text: (l) => texts.get(l.key) ?? l.text,
  },
  {
    id: 'by',
    name: t('wording.by'),
    width: '76px',
    wide: true,
    cell: (l) => <span className="soft">{l.text ? t(l.hand ? 'wording.hand' : 'wording.rule') : ''}</span>,
    text: (l) => (l.text ? t(l.hand ? 'wording.hand' : 'wording.rule') : ''),
  },
  {
    id: 'problems',
    name: t('wording.problems'),
    width: 'minmax(120px, 0.8fr)',
    wide: true,
    className: 'said',
    cell: (l) => <span className="clamp wrong">{l.problems.map((p) => named(`text_problem.${p}`)).join(' · ')}</span>,
    text: (l) => l.problems.map((p) => named(`text_problem.${p}`)).join(', '),
  },
];
