import { Link } from '@tanstack/react-router';
import { lazy, Suspense, useMemo } from 'react';
import type { Line, Owner } from '../../api/client';
import { bytes } from '../../ui/format';
import { Met } from '../../ui/Met';
import { Thumb } from '../../ui/Thumb';
import { brief, say, sayAll } from '../../words/messages';
import { t } from '../../words/words';
import { keyMet } from './keyMet';
import { siblings } from './order';
import { Coded } from './views';
import './LineGlass.css';

const Sortable = lazy(() => import('./Sortable').then((m) => ({ default: m.Sortable })));

interface Props {
  line: Line;
  lines: Line[];
  owners: Map<number, Owner>;
  mayEdit: boolean;
  onAccept: (owner?: number) => void;
  onSearch: () => void;
  onAcceptAll: () => void;
  onShare: () => void;
  onUnshare: (owner: number) => void;
  onAside: () => void;
  onOrder: (owner: number, arrivals: number[]) => void;
}

/** The line in focus: the picture large beside what the owner has now, why it was paired, and what to do. */
export function LineGlass({
  line,
  lines,
  owners,
  mayEdit,
  onAccept,
  onAcceptAll,
  onSearch,
  onShare,
  onUnshare,
  onAside,
  onOrder,
}: Props) {
  const owner = owners.get(line.owner ?? 0);
  const order = useMemo(() => (line.owner ? siblings(lines, line.owner) : []), [lines, line.owner]);
  const there = owner?.now[(line.place ?? 1) - 1];
  return (
    <>
      <div className="beside">
        <Suspense fallback={<div className="look" />}>
          <Coded {...{ line, owners }} />
        </Suspense>
        {owner && (
          <div className="now">
            <span className="soft">{t('pair.now_at', { place: line.place })}</span>
            {there ? (
              <Thumb sha={there} size={84} alt="" />
            ) : (
              <span className="thumb none empty84">{t('pair.empty')}</span>
            )}
            {owner.now.length > 0 && (
              <span className="soft">
                {owner.now.length === 1 ? t('pair.its_only') : t('pair.of_many', { n: owner.now.length })}
              </span>
            )}
          </div>
        )}
      </div>
      {owner && order.length > 1 && (
        <>
          <h3>{t('pair.order')}</h3>
          <Suspense fallback={<div className="order waits-here" />}>
            <Sortable order={order} owner={owner.id} at={line.id} disabled={!mayEdit} onOrder={onOrder} />
          </Suspense>
        </>
      )}
      {say(line.message) && <p className="notice">{say(line.message)}</p>}
      {owner?.now.includes(line.sha ?? '') && <p className="notice">{t('pair.present')}</p>}
      {line.colour && (
        <p className="notice">
          {line.colour} {t('pair.check_colour')}
        </p>
      )}
      {line.alike && (
        <p className="notice row">
          <Thumb sha={line.alike} size={48} alt={t('pair.alike_alt')} />
          <span>{t('pair.alike')}</span>
        </p>
      )}
      <h3>{t(line.person ? 'pair.why_hand' : owner ? 'pair.why_owner' : 'pair.why_name')}</h3>
      <p className="mono wrap">
        <Met text={line.path} spans={line.spans} />
      </p>
      {owner && (
        <p>
          <Link to="/catalogue/shop/$owner" params={{ owner: String(owner.id) }} className="mono">
            <Met {...keyMet(line, owner)} />
          </Link>
          <br />
          {owner.label}
        </p>
      )}
      <p>
        {line.person
          ? t(line.aside ? 'pair.aside_by' : 'pair.paired_by', { person: line.person, why: sayAll(line.why) })
          : sayAll(line.why)}
      </p>
      {(line.also?.length ?? 0) > 0 && (
        <>
          <h3>{t('pair.also_for')}</h3>
          <ul className="plain">
            {line.also?.map((a) => (
              <li key={a.owner} className="row">
                <span className="grow">
                  <b className="mono">{owners.get(a.owner)?.sku}</b>{' '}
                  <span className="soft">{t('pair.at', { place: a.place })}</span>
                  <br />
                  <span className="soft">{owners.get(a.owner)?.label}</span>
                </span>
                {mayEdit && (
                  <button
                    type="button"
                    className="linkish"
                    aria-label={t('pair.take_off_of', { owner: owners.get(a.owner)?.sku })}
                    onClick={() => onUnshare(a.owner)}
                  >
                    {t('pair.take_off')}
                  </button>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
      {line.sha && (
        <p className="soft figures">
          {line.width} × {line.height} · {bytes(line.bytes)} · {line.format}
          {line.seen ? ` · ${t('pair.seen')}` : ''}
        </p>
      )}
      {mayEdit && line.sha && (
        <div className="choices">
          {line.candidates?.map((c, i) => (
            <button type="button" key={`${c.owner}-${c.fit}-${c.number}`} onClick={() => onAccept(c.owner)}>
              <span className="grow">
                <b className="mono">{owners.get(c.owner)?.sku}</b>
                {c.number !== undefined && `, ${t('pair.candidate_number', { number: c.number })}`}
                <br />
                <span className="soft">{owners.get(c.owner)?.label}</span>
                {c.differs && (
                  <>
                    <br />
                    <span className="differs">{brief(c.differs)}</span>
                  </>
                )}
              </span>
              <kbd>{i + 1}</kbd>
            </button>
          ))}
          {line.grade === 'contested' && (line.candidates?.length ?? 0) > 1 && (
            <button type="button" onClick={onAcceptAll}>
              <span className="grow">
                {line.candidates?.length === 2 ? t('pair.both') : t('pair.all_of', { n: line.candidates?.length })}
              </span>
              <kbd>b</kbd>
            </button>
          )}
          {owner && !line.person && (
            <button type="button" className="first" onClick={() => onAccept()}>
              <span className="grow">{t('pair.accept', { place: line.place })}</span>
              <kbd>Enter</kbd>
            </button>
          )}
          <button type="button" onClick={onSearch}>
            <span className="grow">{t('pair.another')}</span>
            <kbd>s</kbd>
          </button>
          {owner && (
            <button type="button" onClick={onShare}>
              <span className="grow">{t('pair.also')}</span>
              <kbd>a</kbd>
            </button>
          )}
          {!line.aside && (
            <button type="button" onClick={onAside}>
              <span className="grow">{t('pair.aside')}</span>
              <kbd>x</kbd>
            </button>
          )}
        </div>
      )}
    </>
  );
}
