import { Button, Menu, TextInput } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { askPages, type Guide, guideQuery } from '../../api/guides';
import { useAskOnce } from '../../api/queries';
import { type Source, sourceTouched } from '../../api/sources';
import { Bench } from '../../ui/Bench';
import { say } from '../../ui/complain';
import { Empty } from '../../ui/Empty';
import { save } from '../../ui/save';
import { useMayEdit } from '../../ui/session';
import { say as sentence } from '../../words/messages';
import { named, t } from '../../words/words';
import type { Parts } from '../sources/parts';
import { Frame } from './Frame';
import { StepForm } from './StepForm';
import { emptyGuide, isMany, onListing, STEPS, type Step, selectorOf, withSelector } from './steps';
import { TriedItems } from './Tried';
import { useShown } from './useShown';
import { useTry } from './useTry';
import { Versions } from './Versions';
import './Pages.css';

interface Props extends Pick<Parts, 'rail' | 'onVisit'> {
  source: Source;
}

/** How a source's pages are read: shown by pointing at what is wanted, and tried before it is used. */
export function GuideBench({ source, rail, onVisit }: Props) {
  const kept = useQuery(guideQuery(source.id)).data;
  if (!kept) return <Bench rail={rail} board={<div className="hush">{t('pages.reading')}</div>} glass={null} />;
  return <Pointing key={kept.version} source={source} kept={kept} rail={rail} onVisit={onVisit} />;
}

function Pointing({
  source,
  kept,
  rail,
  onVisit,
}: Props & { kept: { version: number; guide?: Guide; person?: string } }) {
  const [guide, setGuide] = useState<Guide>(kept.guide ?? emptyGuide(''));
  const [step, setStep] = useState<Step>('items');
  const [asked, setAsked] = useState({ listing: guide.start[0] ?? '', item: '' });
  const mayEdit = useMayEdit() && source.mine;
  const { trial, run, stop } = useTry();
  const queries = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const address = onListing(step) ? asked.listing : asked.item || trial?.items[0]?.item || '';
  const selector = selectorOf(guide, step);
  const shown = useShown(address, selector);
  const changed = JSON.stringify(guide) !== JSON.stringify(kept.guide);
  const keep = useAskOnce(() => askPages.keep(source.id, guide), [...sourceTouched, ['guide']]);
  const walk = useAskOnce(
    ({ most, addresses }: { most: number; addresses: boolean }) => askPages.walk(source.id, most, addresses),
    sourceTouched,
  );
  const begin = (most: number, addresses = false) =>
    walk.mutate({ most, addresses }, { onSuccess: ({ id }) => onVisit(id) });
  const showItem = (item: string, failed?: string) => {
    setAsked({ ...asked, item });
    const to = STEPS.find((s) => s === failed) ?? step;
    setStep(onListing(to) ? 'pictures' : to);
  };
  const point = (number: number) =>
    void shown.point(number, isMany(step)).then((found) => found && setGuide(withSelector(guide, step, found)));
  const bring = async (from?: File) => {
    const read = from && readGuide(await from.text());
    if (read) setGuide(read);
    if (from) say(t(read ? 'pages.imported' : 'pages.no_guide_file'));
  };
  const board = (
    <div className="guide">
      <header className="top">
        <div className="row">
          <h1 className="grow">{t('pages.guide_of', { source: source.name })}</h1>
          {mayEdit && changed && (
            <Button
              loading={keep.isPending}
              onClick={() =>
                keep.mutate(undefined, {
                  onSuccess: () => void queries.invalidateQueries({ queryKey: ['guide', source.id] }),
                })
              }
            >
              {t('pages.keep')}
            </Button>
          )}
          <Button disabled={!guide.start[0]} onClick={() => void run(guide, 1, onListing(step) ? '' : asked.item)}>
            {t('pages.try_first')}
          </Button>
          <Button disabled={!guide.start[0]} onClick={() => void run(guide, 3)}>
            {t('pages.try_three')}
          </Button>
          {mayEdit && (
            <Button
              className="go"
              disabled={changed || kept.version === 0 || source.working}
              loading={walk.isPending}
              onClick={() => begin(0)}
            >
              {t('pages.walk_all')}
            </Button>
          )}
          <Menu position="bottom-end">
            <Menu.Target>
              <Button aria-label={t('pages.more')}>⋯</Button>
            </Menu.Target>
            <Menu.Dropdown>
              {mayEdit && (
                <Menu.Item disabled={changed || kept.version === 0} onClick={() => begin(0, true)}>
                  {t('pages.walk_addresses')}
                </Menu.Item>
              )}
              <Menu.Item
                onClick={() =>
                  save(
                    new Blob([JSON.stringify(guide, null, 2)], { type: 'application/json' }),
                    `${source.name}.guide.json`,
                  )
                }
              >
                {t('pages.export')}
              </Menu.Item>
              {mayEdit && <Menu.Item onClick={() => file.current?.click()}>{t('pages.import')}</Menu.Item>}
            </Menu.Dropdown>
          </Menu>
          <input
            ref={file}
            type="file"
            hidden
            accept=".json"
            data-testid="guide-file"
            onChange={(e) => {
              void bring(e.currentTarget.files?.[0]);
              e.currentTarget.value = '';
            }}
          />
        </div>
        {keep.error && <p className="wrong">{keep.error.message}</p>}
        {walk.error && <p className="wrong">{walk.error.message}</p>}
        <div className="row steps" role="tablist" aria-label={t('pages.steps')}>
          {STEPS.map((s) => (
            <button
              key={s}
              type="button"
              role="tab"
              aria-selected={s === step}
              className={s === step ? 'on' : ''}
              onClick={() => setStep(s)}
            >
              <span aria-hidden="true">{selectorOf(guide, s) ? '●' : '○'}</span> {named(`pages.step_${s}`)}
            </button>
          ))}
        </div>
        <form
          className="row"
          onSubmit={(e) => {
            e.preventDefault();
            const to = String(new FormData(e.currentTarget).get('address') ?? '').trim();
            if (onListing(step)) {
              setAsked({ ...asked, listing: to });
              setGuide({ ...guide, start: [to, ...guide.start.slice(1)] });
            } else setAsked({ ...asked, item: to });
          }}
        >
          <TextInput
            key={`${onListing(step)} ${address}`}
            className="grow"
            name="address"
            type="url"
            required
            defaultValue={address}
            label={t(onListing(step) ? 'pages.listing' : 'pages.item_page')}
            placeholder="https://"
          />
          <Button type="submit" loading={shown.busy}>
            {t('pages.show')}
          </Button>
        </form>
      </header>
      {shown.page?.says && <p className="wrong padded">{sentence(shown.page.says)}</p>}
      {shown.error && <p className="wrong padded">{shown.error}</p>}
      {shown.page?.html ? (
        <div className="pagescroll">
          <Frame html={shown.page.html} marked={shown.found?.found ?? []} pointed={shown.numbers} onPoint={point} />
        </div>
      ) : (
        !shown.busy &&
        !shown.page?.says && (
          <Empty title={t('pages.nothing_shown')}>
            <p>{t(onListing(step) ? 'pages.show_listing' : 'pages.show_item')}</p>
          </Empty>
        )
      )}
    </div>
  );
  const glass = (
    <div className="guideglass">
      <StepForm
        guide={guide}
        step={step}
        found={shown.found}
        clear={shown.clear}
        onChange={setGuide}
        onlyLook={!mayEdit}
        trial={trial}
      />
      {trial && <TriedItems trial={trial} onShow={showItem} />}
      {trial?.busy && (
        <Button size="compact-sm" onClick={stop}>
          {t('pages.stop')}
        </Button>
      )}
      <Versions source={source.id} current={kept.version} onTake={setGuide} />
    </div>
  );
  return <Bench rail={rail} board={board} glass={glass} />;
}

/** A guide from a file; nothing where it is none. What is wrong with one is said when it is kept. */
function readGuide(text: string): Guide | undefined {
  try {
    const read = JSON.parse(text) as Guide;
    return read.form === 1 && Array.isArray(read.start) ? read : undefined;
  } catch {
    return undefined;
  }
}
