import { baseName } from './format';
import { plainly } from './Met';
import { Thumb } from './Thumb';
import './PickGrid.css';

/** A picture that can be picked. */
interface Pickable {
  sha: string;
  path: string;
}

interface Props<P> {
  pictures: P[];
  label?: string;
  isPicked: (picture: P) => boolean;
  onPick: (picture: P) => void;
  /** What stands below the name. */
  says?: (picture: P) => string;
  /** As high as all of it; otherwise it scrolls. */
  whole?: boolean;
}

/** Pictures as tiles with their names, to pick from. */
export function PickGrid<P extends Pickable>({ pictures, label, isPicked, onPick, says, whole }: Props<P>) {
  return (
    <ul className={whole ? 'pickgrid whole' : 'pickgrid'} aria-label={label}>
      {pictures.map((p) => (
        <li key={p.sha}>
          <button type="button" aria-pressed={isPicked(p)} onClick={() => onPick(p)} title={plainly(p.path)}>
            <Thumb sha={p.sha} size={88} />
            <span className="mono clip">{plainly(baseName(p.path))}</span>
            {says && <span className="soft clip">{says(p)}</span>}
          </button>
        </li>
      ))}
    </ul>
  );
}
