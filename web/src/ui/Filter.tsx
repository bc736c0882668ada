import type { ReactNode } from 'react';
import { count } from './format';
import './Filter.css';

interface Props {
  name: ReactNode;
  count?: number;
  on: boolean;
  onClick: () => void;
  quiet?: boolean;
}

/** One line of a rail: a name and how many, which filters the board. */
export function Filter(p: Props) {
  return (
    <button type="button" className={p.quiet ? 'filter quiet' : 'filter'} aria-pressed={p.on} onClick={p.onClick}>
      <span className="grow">{p.name}</span>
      {p.count !== undefined && <span className="figures">{count(p.count)}</span>}
    </button>
  );
}
