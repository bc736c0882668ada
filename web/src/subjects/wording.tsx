import type { Change } from '../api/client';
import { Look } from '../ui/Look';
import { named, t } from '../words/words';
import { fields, ownerName, type Renderer } from './subject';

/** Texts by asset, field and language; null where there is none. */
type Texts = Record<string, Record<string, Record<string, { text: string; hand: boolean } | null>>>;

interface Said {
  asset: number;
  field: string;
  language: string;
  text: string;
  hand: boolean;
}

const said = (change: Change, side: 'before' | 'after'): Said[] =>
  Object.entries(fields<Texts>(change, side) ?? {}).flatMap(([asset, of]) =>
    Object.entries(of).flatMap(([field, texts]) =>
      Object.entries(texts).map(([language, one]) => ({
        asset: Number(asset),
        field,
        language,
        text: one?.text ?? '',
        hand: one?.hand ?? false,
      })),
    ),
  );

const words = (change: Change, side: 'before' | 'after') =>
  said(change, side)
    .map((s) => s.text || t('subject.none'))
    .join(' · ');

/** What is said of an owner's pictures. */
export const wordingRenderer: Renderer = {
  name: (change, touched) => ownerName(change.id, touched),
  text: words,
  Side: ({ change, side }) => (
    <span className={side === 'before' ? 'soft clip' : 'clip'} title={words(change, side)}>
      {words(change, side)}
    </span>
  ),
  Glass: ({ change, touched }) => {
    const before = said(change, 'before');
    return (
      <ol className="large">
        {said(change, 'after').map((s) => {
          const was = before.find((b) => b.asset === s.asset && b.field === s.field && b.language === s.language);
          return (
            <li key={`${s.asset} ${s.field} ${s.language}`}>
              <Look sha={touched.assets.get(s.asset)} alt={s.text} />
              <span>
                <span className="soft">
                  {named(`subject.text_${s.field}`)} · {s.language}
                  {s.hand && ` · ${t('subject.text_hand')}`}
                </span>
                <br />
                {was?.text && <span className="struck">{was.text}</span>}{' '}
                <b lang={s.language}>{s.text || t('subject.none')}</b>
              </span>
            </li>
          );
        })}
      </ol>
    );
  },
};
