import { Link } from '@tanstack/react-router';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { useTitle } from '../../ui/useTitle';
import { t } from '../../words/words';

/** A station that stands on the trail before it is built, and says so. */
function Later({ station }: { station: 'sheets' | 'tidy' }) {
  useTitle(station);
  return (
    <Bench
      rail={<h2 className="railhead">{t(`station.${station}`)}</h2>}
      glass={null}
      board={
        <Empty title={t('later.nothing')}>
          <p>{t(`later.${station}`)}</p>
          <p>{t(`later.${station}_now`)}</p>
          <p>
            <Link to="/catalogue">{t(`later.${station}_go`)}</Link>
          </p>
        </Empty>
      }
    />
  );
}

export const Sheets = () => <Later station="sheets" />;
export const Tidy = () => <Later station="tidy" />;
