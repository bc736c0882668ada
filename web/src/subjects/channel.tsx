import type { Change, Touched } from '../api/client';
import { Look } from '../ui/Look';
import { Thumb } from '../ui/Thumb';
import { say } from '../words/messages';
import { named, t } from '../words/words';
import { fields, ownerName, type Renderer } from './subject';

/** What stands in a place of a channel, or shall. */
interface Filed {
  path: string;
  key: string;
  let?: string;
  owner?: number;
  asset?: number;
  size?: string;
  says?: { code: string; data?: Record<string, unknown> }[];
  again?: boolean;
}

const filed = (change: Change, side: 'before' | 'after') => fields<Filed>(change, side);

/** What becomes of the file. */
function state(change: Change): string {
  const before = filed(change, 'before');
  const after = filed(change, 'after');
  if (!after) return 'removed';
  if (!before) return 'new';
  return before.key !== after.key || after.again ? 'changed' : 'renamed';
}

function words(change: Change, side: 'before' | 'after'): string {
  const of = filed(change, side);
  if (!of) return t(side === 'before' ? 'subject.file_not_there' : 'subject.file_removed');
  if (side === 'before') return of.path;
  return `${named(`subject.file_${state(change)}`)} · ${of.path}`;
}

/** A file of a channel: a picture in one size, or the list. */
export const channelRenderer: Renderer = {
  elsewhere: true,
  name: (change, touched) => {
    const of = filed(change, 'after') ?? filed(change, 'before');
    const path = of?.path ?? '';
    const owner = of?.owner ? ownerName(of.owner, touched) : undefined;
    const label = owner ? [owner.code, owner.label, of?.size].filter(Boolean).join(' · ') : t('subject.list');
    return { code: path, label };
  },
  text: words,
  Side: ({ change, side, touched }) => {
    const of = filed(change, side);
    const sha = of?.asset ? touched.assets.get(of.asset) : undefined;
    const noted = of?.says?.length ?? 0;
    return (
      <span className="row">
        {side === 'after' && sha && <Thumb sha={sha} size={36} />}
        <span className={side === 'before' ? 'soft clip' : 'clip'}>
          {side === 'after' && of ? named(`subject.file_${state(change)}`) : words(change, side)}
          {side === 'after' && noted > 0 && <span className="soft"> · {say(of?.says?.[0])}</span>}
        </span>
      </span>
    );
  },
  Glass: ({ change, touched }) => <Glass change={change} touched={touched} />,
};

function Glass({ change, touched }: { change: Change; touched: Touched }) {
  const before = filed(change, 'before');
  const after = filed(change, 'after');
  const asset = (after ?? before)?.asset;
  return (
    <>
      {asset ? (
        <Look sha={touched.assets.get(asset)} alt={(after ?? before)?.path ?? ''} />
      ) : (
        <p>{t('subject.list_what')}</p>
      )}
      <p>
        <b>{named(`subject.file_${state(change)}`)}</b>
      </p>
      {before && before.path !== after?.path && <p className="soft mono path">{before.path}</p>}
      {after?.says?.map((m) => (
        <p key={m.code}>{say(m)}</p>
      ))}
    </>
  );
}
