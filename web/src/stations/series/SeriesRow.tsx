import { Button } from '@mantine/core';
import type { Line, Owner } from '../../api/client';
import type { Series } from '../../api/photos';
import { baseName } from '../../ui/format';
import { Thumb } from '../../ui/Thumb';
import { named, t } from '../../words/words';
import { Border } from './Border';
import type { Moving } from './moving';

interface Props {
  series: Series;
  next: Series | undefined;
  at: number;
  lines: Map<number, Line>;
  owner: Owner | undefined;
  focus: number | undefined;
  leaving: Set<number>;
  moving: Moving | undefined;
  mayEdit: boolean;
  onAt: (arrival: number) => void;
  onAccept: () => void;
  onSeek: () => void;
  onMoving: (m: Moving | undefined) => void;
  onMove: (m: Moving) => void;
}

/** One series: whose it is, its slate and its pictures in the order in which they were taken. */
export function SeriesRow(p: Props) {
  const { series, owner, lines } = p;
  const count = series.pictures.length;
  const open = series.pictures.filter((id) => !lines.get(id)?.person).length;
  const shot = (id: number, slate: boolean) => {
    const line = lines.get(id);
    const name = baseName(line?.path ?? '');
    return (
      <button
        type="button"
        key={id}
        data-shot={id}
        className="shot"
        data-slate={slate || undefined}
        data-leaving={p.leaving.has(id) || undefined}
        data-hand={line?.person ? true : undefined}
        aria-current={id === p.focus || undefined}
        tabIndex={id === p.focus ? 0 : -1}
        aria-label={slate ? t('series.slate_named', { name }) : name}
        title={name}
        onClick={() => p.onAt(id)}
      >
        <Thumb sha={line?.sha} size={84} />
        <span className="shotname">{slate ? t('series.slate') : name}</span>
      </button>
    );
  };
  return (
    <section className="series" aria-label={owner?.sku ?? named(`series.why_${series.why}`)}>
      <header className="row">
        <span className="grow">
          {owner ? (
            <>
              <b className="mono">{owner.sku}</b> {owner.label}
            </>
          ) : (
            <b>{t('series.nobody')}</b>
          )}
          <br />
          <span className="soft">
            {named(`series.why_${series.why}`)} · {t('series.count', { count })}
            {open === 0 && ` · ${t('series.accepted')}`}
          </span>
        </span>
        {p.mayEdit && owner && open > 0 && (
          <Button size="compact-sm" className="go" onClick={p.onAccept}>
            {t('series.accept')}
          </Button>
        )}
        {p.mayEdit && (
          <Button size="compact-sm" onClick={p.onSeek}>
            {t(owner ? 'series.another' : 'series.choose')}
          </Button>
        )}
      </header>
      <div className="reel">
        {series.slate !== undefined && shot(series.slate, true)}
        {series.pictures.filter((id) => id !== series.slate).map((id) => shot(id, false))}
        {p.next && p.mayEdit && (
          <Border series={series} next={p.next} at={p.at} moving={p.moving} onMoving={p.onMoving} onMove={p.onMove} />
        )}
      </div>
    </section>
  );
}
