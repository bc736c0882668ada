import { pictureURL } from '../api/client';
import './Look.css';

/** A picture large, which opens the original; a quiet frame where there is none. */
export function Look({ sha, alt }: { sha?: string; alt: string }) {
  if (!sha) return <div className="look none">no picture</div>;
  return (
    <a className="look" href={pictureURL(sha, 'original')} target="_blank" rel="noreferrer" title="Open the original">
      <img key={sha} src={pictureURL(sha, 480)} alt={alt} />
    </a>
  );
}
