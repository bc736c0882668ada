import { useQuery } from '@tanstack/react-query';
import { useNavigate, useSearch } from '@tanstack/react-router';
import { useEffect } from 'react';
import { sessionQuery } from '../../api/queries';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { Filter } from '../../ui/Filter';
import { Look } from '../../ui/Look';
import { useTitle } from '../../ui/useTitle';
import { t } from '../../words/words';
import { pieces } from './states';
import './Pieces.css';

/** Every piece that the screens are made of, in all its states. It is there in the demo world only. */
export function Pieces() {
  const demo = useQuery(sessionQuery).data?.demo;
  const { show } = useSearch({ strict: false });
  const navigate = useNavigate();
  useTitle('pieces');
  useEffect(() => {
    if (show) document.getElementById(`piece-${show}`)?.scrollIntoView();
  }, [show]);
  if (!demo) return <Empty title={t('pieces.not_here')} />;
  return (
    <Bench
      rail={
        <>
          <h2 className="railhead">{t('station.pieces')}</h2>
          {pieces.map((p) => (
            <Filter
              key={p.id}
              name={t(`pieces.${p.id}`)}
              count={p.states.length}
              on={show === p.id}
              onClick={() => void navigate({ to: '/pieces', search: { show: p.id }, replace: true })}
            />
          ))}
        </>
      }
      board={
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard
        <section className="pieces" tabIndex={0} aria-label={t('station.pieces')}>
          <h1>{t('station.pieces')}</h1>
          {pieces.map((p) => (
            <section key={p.id} id={`piece-${p.id}`}>
              <h2>{t(`pieces.${p.id}`)}</h2>
              <div className="states">
                {p.states.map(({ name, shown: Shown }) => (
                  <div key={name}>
                    <p className="soft">{t(`pieces.${name}`)}</p>
                    <Shown />
                  </div>
                ))}
              </div>
            </section>
          ))}
        </section>
      }
      glass={
        <>
          <h2 className="railhead">{t('pieces.glass')}</h2>
          <Look alt="" />
          <p>{t('pieces.glass_what')}</p>
        </>
      }
    />
  );
}
