import type { Change, Touched } from '../api/client';
import { baseName } from '../ui/format';
import { Look } from '../ui/Look';
import { plainly } from '../ui/Met';
import { Thumb } from '../ui/Thumb';
import { t } from '../words/words';
import { fields, type Renderer } from './subject';

/** What changes say of a picture; null where a field is not there. */
interface Asset {
  binned?: boolean | null;
  placeholder?: boolean | null;
  tags?: string[] | null;
  note?: string | null;
  rights?: { may?: string } | null;
}

/** One side of a change in words. */
function words(change: Change, side: 'before' | 'after'): string {
  const of = fields<Asset>(change, side);
  if (!of) return t('subject.asset_deleted');
  const says = [
    'binned' in of && t(of.binned ? 'subject.asset_binned' : 'subject.asset_unbinned'),
    'placeholder' in of && t(of.placeholder ? 'subject.asset_placeholder' : 'subject.asset_no_placeholder'),
    'tags' in of && t('subject.asset_tags', { tags: of.tags?.join(', ') || '–' }),
    'note' in of && t('subject.asset_note', { note: of.note || '–' }),
    'rights' in of && t('subject.asset_rights', { may: of.rights?.may ? of.rights.may : '–' }),
  ].filter(Boolean);
  return says.join(' · ') || t('subject.asset_none');
}

const sha = (change: Change, touched: Touched) => touched.assets.get(change.id);

/** A picture itself: the bin, tags, a note, rights. */
export const assetRenderer: Renderer = {
  elsewhere: true,
  name: (change, touched) => {
    const path = plainly(touched.paths.get(change.id) ?? '');
    const name = baseName(path);
    return {
      code: name || t('subject.asset', { id: change.id }),
      label: path.slice(0, path.length - name.length),
    };
  },
  text: words,
  Side: ({ change, side, touched }) => (
    <span className="row">
      {side === 'before' && <Thumb sha={sha(change, touched)} size={28} />}
      <span className={side === 'before' ? 'soft clip' : 'clip'}>{words(change, side)}</span>
    </span>
  ),
  Glass: ({ change, touched }) => (
    <>
      <Look sha={sha(change, touched)} alt={t('subject.asset', { id: change.id })} />
      <p>
        <span className="soft">{words(change, 'before')}</span> → <b>{words(change, 'after')}</b>
      </p>
    </>
  ),
};
