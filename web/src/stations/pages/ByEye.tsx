import { Button, Checkbox, NumberInput, TextInput } from '@mantine/core';
import { useNavigate, useSearch } from '@tanstack/react-router';
import { useMemo, useState } from 'react';
import { type Found, throughURL } from '../../api/guides';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { count } from '../../ui/format';
import { useTitle } from '../../ui/useTitle';
import { say } from '../../words/messages';
import { named, t } from '../../words/words';
import { SourceRail } from '../sources/SourceRail';
import { TakeEye } from './TakeEye';
import { useGlance } from './useGlance';
import './Pages.css';

/** One page by eye: all its pictures, the largest first; those that are wanted are ticked, named, and planned for an owner. */
export function ByEye() {
  const { q = '' } = useSearch({ from: '/gather/page' });
  const navigate = useNavigate({ from: '/gather/page' });
  const seen = useGlance(q);
  const [least, setLeast] = useState({ width: 500, height: 500 });
  const [all, setAll] = useState(false);
  const [picked, setPicked] = useState<Map<string, string>>(new Map());
  useTitle('gather', t('pages.by_eye'));
  const sorted = useMemo(
    () => [...seen.pictures].sort((a, b) => b.width * b.height - a.width * a.height),
    [seen.pictures],
  );
  const fits = (p: Found) => p.width >= least.width && p.height >= least.height && (all || !NOT_MEANT.has(p.why ?? ''));
  const shown = sorted.filter(fits);
  const taken = new Map(seen.page?.taken?.map((k) => [k.address, k]));
  const pick = (address: string, name?: string) =>
    setPicked((now) => {
      const next = new Map(now);
      if (name === undefined) next.delete(address);
      else next.set(address, name);
      return next;
    });
  const rail = <SourceRail at={-1} />;
  const board = (
    <div className="guide">
      <header className="top">
        <h1>{t('pages.by_eye')}</h1>
        <form
          className="row"
          onSubmit={(e) => {
            e.preventDefault();
            const to = String(new FormData(e.currentTarget).get('address') ?? '').trim();
            setPicked(new Map());
            void navigate({ search: { q: to } });
          }}
        >
          <TextInput
            key={q}
            className="grow"
            name="address"
            type="url"
            required
            defaultValue={q}
            label={t('pages.address')}
            placeholder="https://"
          />
          <Button type="submit" className="go" loading={seen.busy}>
            {t('pages.show_pictures')}
          </Button>
          {seen.busy && <Button onClick={seen.stop}>{t('pages.stop')}</Button>}
        </form>
        {seen.page && !seen.page.says && (
          <div className="row eyebar">
            <NumberInput
              hideControls
              w={110}
              label={t('pages.least_width')}
              min={0}
              value={least.width}
              onChange={(n) => setLeast({ ...least, width: Number(n) || 0 })}
            />
            <NumberInput
              hideControls
              w={110}
              label={t('pages.least_height')}
              min={0}
              value={least.height}
              onChange={(n) => setLeast({ ...least, height: Number(n) || 0 })}
            />
            <Checkbox
              label={t('pages.also_furniture')}
              checked={all}
              onChange={(e) => setAll(e.currentTarget.checked)}
            />
            <p className="grow figures" role="status">
              <b>{t('pages.shown_of', { shown: count(shown.length), of: count(seen.page.count ?? 0) })}</b>
              {seen.busy && ` ${t('pages.looking', { n: seen.pictures.length })}`}
            </p>
          </div>
        )}
        {seen.page?.says && <p className="wrong">{say(seen.page.says)}</p>}
        {seen.why && <p className="wrong">{seen.why}</p>}
      </header>
      {shown.length > 0 ? (
        <ul className="eyegrid" aria-label={t('pages.pictures_of_page')}>
          {shown.map((p) => (
            <EyePicture
              key={p.address}
              picture={p}
              taken={taken.get(p.address)?.title}
              name={picked.get(p.address)}
              onPick={(name) => pick(p.address, name)}
            />
          ))}
        </ul>
      ) : (
        !seen.busy && (
          <Empty title={t(seen.page ? 'pages.none_fits' : 'pages.no_page')}>
            <p>{t(seen.page ? 'pages.none_fits_what' : 'pages.no_page_what')}</p>
          </Empty>
        )
      )}
    </div>
  );
  const glass = seen.page && !seen.page.says && (
    <TakeEye key={seen.page.address} page={seen.page} picked={picked} onTaken={() => setPicked(new Map())} />
  );
  return <Bench rail={rail} board={board} glass={glass || null} />;
}

/** What is never meant: the page's own furniture, and what stands until a picture comes. */
const NOT_MEANT = new Set(['furniture', 'placeholder', 'unreachable', 'not_picture']);

interface PictureProps {
  picture: Found;
  taken?: string;
  name?: string;
  onPick: (name?: string) => void;
}

function EyePicture({ picture: p, taken, name, onPick }: PictureProps) {
  const on = name !== undefined;
  return (
    <li>
      <label className={on ? 'on' : ''}>
        <img src={throughURL(p.address)} alt={p.alt || t('pages.without_alt')} loading="lazy" />
        <span className="row">
          <input type="checkbox" checked={on} onChange={(e) => onPick(e.currentTarget.checked ? '' : undefined)} />
          <b className="figures">
            {p.width} × {p.height}
          </b>
        </span>
        <span className="soft clip">{named(`pages.from_${p.from.replace('-', '_')}`)}</span>
        {p.why && <span className="notice">{say(p.says)}</span>}
        {p.remarks?.map((r) => (
          <span key={r.code} className="notice">
            {say(r)}
          </span>
        ))}
        {taken && <span className="teal">✓ {t('pages.taken_for', { owner: taken })}</span>}
      </label>
      {on && (
        <TextInput
          size="xs"
          aria-label={t('pages.name_picture')}
          placeholder={t('pages.name_picture')}
          value={name}
          maxLength={200}
          onChange={(e) => onPick(e.currentTarget.value)}
        />
      )}
    </li>
  );
}
