import { useMemo } from 'react';
import { type SharedFind, useShared } from '../../api/tidy';
import { named, t } from '../../words/words';
import { pictureFirst } from '../pictures/pictureColumns';
import { FindBoard } from './FindBoard';
import type { Focus } from './Tidy';

/** One picture on several products: meant or a mistake? */
export function SharedPictures({ onFocus }: { onFocus: (f: Focus) => void }) {
  const finds = useShared();
  const columns = useMemo(
    () => [
      ...pictureFirst<SharedFind>(),
      {
        id: 'judged',
        name: t('tidy.judged'),
        width: '150px',
        className: 'clip',
        cell: (s: SharedFind) => named(`tidy.judged_${s.judged}`),
        text: (s: SharedFind) => s.judged,
      },
      {
        id: 'products',
        name: t('tidy.products'),
        width: 'minmax(200px, 2fr)',
        className: 'clip',
        cell: (s: SharedFind) => s.products.join(' · '),
        text: (s: SharedFind) => s.products.join(' | '),
      },
    ],
    [],
  );
  return (
    <FindBoard
      name="shared"
      title={t('tidy.shared')}
      says={t('tidy.shared_what')}
      finds={finds}
      columns={columns}
      none={t('tidy.no_shared')}
      onAt={(s) => onFocus({ sha: s.sha })}
    />
  );
}
