import type { Change, Touched } from '../api/client';
import { Look } from '../ui/Look';
import { Strip } from '../ui/Thumb';
import { named, t } from '../words/words';
import { fields, ownerName, type Renderer } from './subject';
import './pictures.css';

interface Picture {
  asset: number;
  /** By field and language; of plans of earlier versions the alt text alone. */
  texts?: Record<string, Record<string, { text: string }>>;
  alt?: string;
}

/** What is newly said of a picture: which text, in which language. */
const textsOf = (p: Picture) => [
  ...(p.alt ? [{ field: 'alt', language: 'en', text: p.alt }] : []),
  ...Object.entries(p.texts ?? {}).flatMap(([field, of]) =>
    Object.entries(of).map(([language, { text }]) => ({ field, language, text })),
  ),
];

const pictures = (change: Change, side: 'before' | 'after') =>
  fields<{ pictures: Picture[] }>(change, side)?.pictures ?? [];

const shas = (some: Picture[], touched: Touched) => some.map((p) => touched.assets.get(p.asset) ?? '');

/** The pictures of an owner: which they are, and their order. */
export const picturesRenderer: Renderer = {
  name: (change, touched) => ownerName(change.id, touched),
  Side: ({ change, side, touched }) => {
    const before = shas(pictures(change, 'before'), touched);
    const after = shas(pictures(change, 'after'), touched);
    const gone = before.filter((sha) => !after.includes(sha));
    return side === 'before' ? (
      <Strip shas={before} size={38} most={4} gone={gone} />
    ) : (
      <Strip shas={after} size={38} most={4} was={before} />
    );
  },
  text: (change, side, touched) => shas(pictures(change, side), touched).join(' '),
  Glass: ({ change, touched }) => {
    const before = pictures(change, 'before');
    const after = pictures(change, 'after');
    const gone = before.filter((p) => !after.some((q) => q.asset === p.asset));
    return (
      <>
        <ol className="large">
          {after.map((p, i) => (
            <li key={p.asset}>
              <Look sha={touched.assets.get(p.asset)} alt={textsOf(p)[0]?.text ?? ''} />
              <span>
                <b className="figures">{i + 1}</b> {textsOf(p).length === 0 && t('subject.keeps_alt')}
                {textsOf(p).map((said) => (
                  <span key={`${said.field} ${said.language}`} className="saidline">
                    <span className="soft">
                      {named(`subject.text_${said.field}`)} · {said.language}
                    </span>{' '}
                    <span lang={said.language}>{said.text}</span>
                  </span>
                ))}
                {textsOf(p).length === 0 && <br />}
                <span className="soft">
                  {t(before.some((q) => q.asset === p.asset) ? 'subject.already' : 'subject.fresh')}
                </span>
              </span>
            </li>
          ))}
          {after.length === 0 && <li className="soft">{t('subject.no_pictures')}</li>}
        </ol>
        {gone.length > 0 && <h4>{t('subject.taken_off')}</h4>}
        <ol className="large">
          {gone.map((p) => (
            <li key={p.asset} className="faint">
              <Look sha={touched.assets.get(p.asset)} alt="" />
              <span className="soft">{t('subject.was_at', { place: before.indexOf(p) + 1 })}</span>
            </li>
          ))}
        </ol>
      </>
    );
  },
};
