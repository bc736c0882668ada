import { useQuery } from '@tanstack/react-query';
import type { Line, Owner } from '../../api/client';
import { type Photo, type PhotoCode, photoQuery } from '../../api/photos';
import { Look } from '../../ui/Look';
import { Met } from '../../ui/Met';
import { t } from '../../words/words';
import './Coded.css';

const LONGEST = 160;

/** A line's picture with frames around its codes; below it their digits beside the owner's barcode, what agrees underlined. */
export function Coded({ line, owners }: { line: Line; owners: Map<number, Owner> }) {
  const photo = useQuery(photoQuery(line.sha)).data;
  const asked = line.owner ? [line.owner] : [...new Set(line.candidates?.map((c) => c.owner))];
  return (
    <div>
      <Look sha={line.sha} alt={line.path}>
        {photo?.codes.map((c) => (
          <span key={c.box.join()} className="codeframe" style={place(photo, c)} aria-hidden>
            <span className="mono">{c.text.length > 24 ? c.format : c.text}</span>
          </span>
        ))}
      </Look>
      {photo && photo.codes.length > 0 && <Codes photo={photo} owners={asked.flatMap((id) => owners.get(id) ?? [])} />}
    </div>
  );
}

function place({ width, height }: Photo, { box: [x = 0, y = 0, w = 0, h = 0] }: PhotoCode) {
  const side = Math.max(width, height, 1);
  const percent = (n: number) => `${(100 * n) / side}%`;
  return {
    left: percent(x + (side - width) / 2),
    top: percent(y + (side - height) / 2),
    width: percent(w),
    height: percent(h),
  };
}

/** The codes in words. What one says is a text, never followed. */
function Codes({ photo, owners }: { photo: Photo; owners: Owner[] }) {
  const first = owners.find((o) => o.barcode)?.barcode;
  return (
    <>
      <h3>{t('series.codes')}</h3>
      <ul className="plain codes">
        {photo.codes.map((c) => (
          <li key={c.box.join()}>
            <span className="mono wrap">
              <Met
                text={c.text.slice(0, LONGEST)}
                spans={first && owners.length === 1 ? agreeing(c.text, first) : []}
              />
              {c.text.length > LONGEST && ' …'}
            </span>{' '}
            <span className="soft">{c.format}</span>
            <br />
            <span className="soft">
              {c.owners.length > 0
                ? t('series.of_owner', { owner: c.owners.map((o) => o.sku).join(', ') })
                : t('series.of_nobody')}
            </span>
          </li>
        ))}
        {owners.map(
          (o) =>
            o.barcode && (
              <li key={o.id}>
                <span className="mono">
                  <Met
                    text={o.barcode}
                    spans={agreeing(o.barcode, photo.codes[0]?.gtin || photo.codes[0]?.text || '')}
                  />
                </span>{' '}
                <span className="soft">{t('series.in_catalogue', { owner: o.sku })}</span>
              </li>
            ),
        )}
      </ul>
    </>
  );
}

/** Where digits of a text stand at the same place from the end in another: leading zeros do not count. */
function agreeing(text: string, other: string): [number, number][] {
  const spans: [number, number][] = [];
  for (let i = 0; i < text.length; i++) {
    const at = other.length - (text.length - i);
    if (at < 0 || text[i] !== other[at] || !/\d/.test(text[i] ?? '')) continue;
    const last = spans.at(-1);
    if (last && last[1] === i) last[1]++;
    else spans.push([i, i + 1]);
  }
  return spans;
}
