import { Link } from '@tanstack/react-router';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';

const words = {
  Sheets: {
    what: 'Nothing is here yet.',
    will: 'Spreadsheets that name pictures and products will be read and checked here.',
    now: 'Products can be brought in as a CSV table today.',
    to: '/catalogue',
    go: 'Bring in a products table',
  },
  Tidy: {
    what: 'Nothing is here yet.',
    will: 'What no product uses, what is there twice and what is missing will be found and cleared here.',
    now: 'Products without a picture can be filtered in the catalogue today.',
    to: '/catalogue',
    go: 'Look at the catalogue',
  },
} as const;

/** A station that stands on the trail before it is built, and says so. */
export function Later({ station }: { station: keyof typeof words }) {
  const w = words[station];
  return (
    <Bench
      rail={<h2 className="railhead">{station}</h2>}
      glass={null}
      board={
        <Empty title={w.what}>
          <p>{w.will}</p>
          <p>{w.now}</p>
          <p>
            <Link to={w.to}>{w.go}</Link>
          </p>
        </Empty>
      }
    />
  );
}
