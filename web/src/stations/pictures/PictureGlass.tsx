import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { pictureURL } from '../../api/client';
import { factsQuery, type PictureFacts, waysQuery } from '../../api/gallery';
import { bytes, when } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { Thumb } from '../../ui/Thumb';
import { named, t } from '../../words/words';
import '../../ui/Look.css';

/** A picture large, with all that is known of it. */
export function PictureGlass({
  sha,
  onLarge,
  onLike,
}: {
  sha: string;
  onLarge: () => void;
  onLike: (likeness: string) => void;
}) {
  const p = useQuery(factsQuery(sha)).data;
  if (!p) return <div className="hush">{t('pictures.reading_picture')}</div>;
  return (
    <div className="factsof">
      <button type="button" className="look" onClick={onLarge} title={t('pictures.large')}>
        <img src={pictureURL(p.sha, 480)} alt={plainly(p.name)} />
      </button>
      <h2 className="mono">{plainly(p.name)}</h2>
      <Checks p={p} />
      <dl className="facts">
        <Fact name={t('pictures.size')}>
          {t('pictures.pixels', { w: p.width, h: p.height, format: p.format, bytes: bytes(p.bytes) })}
        </Fact>
        <Fact name={t('pictures.profile')}>{p.profile ?? t('pictures.no_profile')}</Fact>
        {p.tags.length > 0 && <Fact name={t('pictures.tags')}>{p.tags.join(', ')}</Fact>}
        {p.note && <Fact name={t('pictures.note')}>{p.note}</Fact>}
        {(['creator', 'copyright', 'credit', 'description', 'taken'] as const).map(
          (k) =>
            p.said[k] && (
              <Fact key={k} name={t(`pictures.said_${k}`)}>
                {p.said[k]}
              </Fact>
            ),
        )}
      </dl>
      <Stands p={p} />
      <Ways sha={sha} />
      {p.like.length > 0 && (
        <>
          <h3>{t('pictures.like')}</h3>
          <div className="strip">
            {p.like.map((o) => (
              <Link key={o.id} to="/pictures" search={{ at: o.id, side: p.likeness }} title={plainly(o.path)}>
                <Thumb sha={o.sha} size={56} alt={plainly(o.name)} />
              </Link>
            ))}
          </div>
          <button type="button" className="plainlink" onClick={() => onLike(p.likeness ?? '')}>
            {t('pictures.find_like')}
          </button>
        </>
      )}
      {p.metadata.length > 0 && (
        <details>
          <summary>{t('pictures.metadata', { count: p.metadata.length })}</summary>
          <dl className="facts small">
            {p.metadata.map((m, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the list is what the picture says, in its order
              <Fact key={i} name={`${m.group} ${m.name}`}>
                {m.value}
              </Fact>
            ))}
          </dl>
        </details>
      )}
    </div>
  );
}

const Fact = ({ name, children }: { name: string; children: React.ReactNode }) => (
  <div>
    <dt>{name}</dt>
    <dd>{children}</dd>
  </div>
);

/** What the checks say of it. */
function Checks({ p }: { p: PictureFacts }) {
  if (p.trouble) return <p className="wrong">{named(`pictures.trouble_${p.trouble}`)}</p>;
  if (!p.checked) return <p className="soft">{t('pictures.unchecked')}</p>;
  const [left, top, right, bottom] = p.padding as [number, number, number, number];
  const says = [
    p.faults.includes('enlarged') && t('pictures.truly', { w: p.trueSize[0], h: p.trueSize[1] }),
    p.faults.includes('padded') && t('pictures.padding', { left, top, right, bottom }),
    p.sideways > 0 && t('pictures.sideways', { degrees: p.sideways }),
    ...p.faults.filter((f) => !['enlarged', 'padded', 'sideways'].includes(f)).map((f) => named(`pictures.fault_${f}`)),
  ].filter(Boolean);
  return (
    <ul className="plain checks">
      {says.length === 0 ? (
        <li className="soft">{t('pictures.nothing_wrong')}</li>
      ) : (
        says.map((s) => (
          <li key={String(s)} className="wrong">
            {s}
          </li>
        ))
      )}
    </ul>
  );
}

function Stands({ p }: { p: PictureFacts }) {
  return (
    <>
      <h3>{t('pictures.stands')}</h3>
      {p.stands.length === 0 && <p className="soft">{t('pictures.stands_nowhere')}</p>}
      <ul className="plain">
        {p.stands.map((s) => (
          <li key={`${s.owner} ${s.position}`}>
            <Link to="/catalogue/shop/$owner" params={{ owner: String(s.owner) }}>
              <span className="mono">{s.sku || named(`owner.${s.kind}`)}</span> {s.label}
            </Link>{' '}
            <span className="soft">{t('pictures.position', { n: s.position })}</span>
          </li>
        ))}
      </ul>
      {p.stood.length > 0 && (
        <details>
          <summary>{t('pictures.stood', { count: p.stood.length })}</summary>
          <ul className="plain">
            {p.stood.map((s, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a run may have several lines
              <li key={i}>
                <Link to="/ledger/$run" params={{ run: String(s.run) }}>
                  {t(s.came ? 'pictures.came_by_run' : 'pictures.went_by_run', { run: s.run, owner: s.owner })}
                </Link>{' '}
                <span className="soft">{when(s.at)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

function Ways({ sha }: { sha: string }) {
  const ways = useQuery(waysQuery(sha)).data;
  if (!ways) return null;
  return (
    <>
      <h3>{t('pictures.came')}</h3>
      <ul className="plain">
        {ways.ways.map((w) => (
          <li key={w.id}>
            <span className="mono">{plainly(w.path)}</span>
            <br />
            <span className="soft">
              {[w.sourceName || w.supplier, w.title, when(w.at)].filter(Boolean).join(' · ')}
            </span>
          </li>
        ))}
      </ul>
      {ways.rights?.may && (
        <p className="soft">
          {t('pictures.rights', { may: named(`pictures.is_${ways.rights.may}`), until: ways.rights.until ?? '' })}
        </p>
      )}
    </>
  );
}
