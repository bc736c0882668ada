import type { Line, Owner } from '../../api/client';
import type { Column } from '../../ui/columns';
import { FileName } from '../../ui/FileName';
import { baseName } from '../../ui/format';
import { Grade } from '../../ui/Grade';
import { Met } from '../../ui/Met';
import { Strip, Thumb } from '../../ui/Thumb';
import { brief, sayAll } from '../../words/messages';
import { named, t } from '../../words/words';
import { keyMet } from './keyMet';
import { gradeKinds } from './kinds';

/** What is seen of a line: its file, what met the key, and who gets the picture. */
export const pairColumns = (owners: Map<number, Owner>): Column<Line>[] => [
  {
    id: 'state',
    name: t('column.state'),
    quiet: true,
    fixed: true,
    width: '20px',
    cell: (l) => <Grade grade={l.aside ? 'ignored' : l.grade} checked={l.kinds?.includes('checked')} />,
    by: (l) => gradeKinds.indexOf(l.aside ? 'ignored' : l.grade),
    text: (l) => named(`grade.${l.aside ? 'ignored' : l.grade}`),
  },
  {
    id: 'picture',
    name: t('column.picture'),
    quiet: true,
    fixed: true,
    width: '40px',
    cell: (l) => <Thumb sha={l.sha} size={36} />,
  },
  {
    id: 'file',
    name: t('column.file'),
    width: 'minmax(150px, 1.8fr)',
    className: 'two',
    cell: (l) => <File line={l} />,
    by: (l) => l.path,
  },
  {
    id: 'owner',
    name: t('column.owner'),
    width: 'minmax(130px, 1fr)',
    className: 'two under',
    // Nobody gets it, so that there is no place either: what stands against it has all the room.
    span: (l) => (owners.has(l.owner ?? 0) ? 1 : 3),
    cell: (l) => <OwnerOf line={l} owners={owners} />,
    by: (l) => owners.get(l.owner ?? 0)?.sku ?? '',
  },
  {
    id: 'place',
    name: t('column.place'),
    width: '52px',
    figures: true,
    wide: true,
    cell: (l) => l.place ?? '',
    text: (l) => l.place,
  },
  {
    id: 'now',
    name: t('column.now'),
    width: '104px',
    wide: true,
    cell: (l) => <Strip shas={owners.get(l.owner ?? 0)?.now ?? []} most={3} />,
    text: (l) => owners.get(l.owner ?? 0)?.now?.length,
  },
];

function File({ line }: { line: Line }) {
  const cut = line.path.length - baseName(line.path).length;
  return (
    <>
      <FileName name={baseName(line.path)} spans={line.spans} from={cut} />
      {cut > 0 && (
        <span className="soft clip">
          <Met text={line.path.slice(0, cut)} spans={line.spans} />
        </span>
      )}
    </>
  );
}

function OwnerOf({ line, owners }: { line: Line; owners: Map<number, Owner> }) {
  const owner = owners.get(line.owner ?? 0);
  if (!owner) {
    if (line.aside) return <span className="soft clip">{t('pair.set_aside_by', { person: line.person })}</span>;
    if (line.candidates?.[0]) return <Rivals line={line} owners={owners} />;
    return <span className="soft clip">{sayAll(line.grade === 'ignored' ? line.why : line.doubt)}</span>;
  }
  const notes = [
    line.person && t('pair.by_hand', { person: line.person }),
    line.keyText && line.keyText !== owner.sku && owner.sku,
    line.also?.length && t('pair.more_owners', { count: line.also.length }),
  ].filter(Boolean);
  return (
    <>
      <b className="mono clip">
        <Met {...keyMet(line, owner)} />
      </b>
      <span className="soft clip">
        {notes.map((n) => `${n} · `)}
        {line.doubt ? <span className="differs">{sayAll(line.doubt)}</span> : owner.label}
      </span>
    </>
  );
}

/** Who a line may be meant for: the two that contest it, or the nearest and what differs. */
function Rivals({ line, owners }: { line: Line; owners: Map<number, Owner> }) {
  const name = (id?: number) => owners.get(id ?? 0)?.sku || owners.get(id ?? 0)?.label;
  const [first, second, ...more] = line.candidates ?? [];
  if (line.grade === 'unclaimed') {
    return (
      <>
        <span className="soft clip">
          {t('pair.nearest')} <span className="mono">{name(first?.owner)}</span>
        </span>
        <span className="differs clip">{brief(first?.differs) || sayAll(line.doubt)}</span>
      </>
    );
  }
  return (
    <>
      <span className="soft clip">
        <span className="mono">{name(first?.owner)}</span> {t('pair.or')}{' '}
        <span className="mono">{name(second?.owner)}</span>
        {more.length > 0 && ` ${t('pair.and_more', { n: more.length })}`}
      </span>
      {line.doubt && <span className="differs clip">{sayAll(line.doubt)}</span>}
    </>
  );
}
