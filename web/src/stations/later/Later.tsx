import { Link } from '@tanstack/react-router';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { useTitle } from '../../ui/useTitle';
import { t } from '../../words/words';

/** A station that stands on the trail before it is built, and says so. */
export function Tidy() {
  useTitle('tidy');
  return (
    <Bench
      rail={<h2 className="railhead">{t('station.tidy')}</h2>}
      glass={null}
      board={
        <Empty title={t('later.nothing')}>
          <p>{t('later.tidy')}</p>
          <p>{t('later.tidy_now')}</p>
          <p>
            <Link to="/catalogue">{t('later.tidy_go')}</Link>
          </p>
        </Empty>
      }
    />
  );
}
