import { Button, Select } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useNavigate, useSearch } from '@tanstack/react-router';
import { useEffect, useMemo, useRef, useState } from 'react';
import { type KeptRule, TEXT_FIELDS, type TextAct, usePictured, wordingRulesQuery } from '../../api/hand';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { Filter } from '../../ui/Filter';
import { FilterField } from '../../ui/FilterField';
import { useMayEdit } from '../../ui/session';
import { useFocus } from '../../ui/useFocus';
import { useKeys } from '../../ui/useKeys';
import { useTitle } from '../../ui/useTitle';
import { named, t } from '../../words/words';
import { CatalogueRail } from '../hand/CatalogueRail';
import { ActForm } from './ActForm';
import { RuleForm } from './RuleForm';
import { RuleList } from './RuleList';
import { isWhole, WordingBar } from './WordingBar';
import { WordingGlass } from './WordingGlass';
import { columns, type TextLine, textLines } from './wordingColumns';
import '../hand/Hand.css';
import './Wording.css';

const PROBLEMS = [
  'alt_missing',
  'alt_long',
  'says_image_of',
  'same_on_owner',
  'only_key',
  'is_file_name',
  'colour_differs',
] as const;

/** What is said of pictures, a line a picture, with what is wrong; changed by hand, many at once and by rules. */
export function Wording() {
  const search = useSearch({ strict: false });
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const rules = useQuery(wordingRulesQuery).data;
  const filterField = useRef<HTMLInputElement>(null);
  const [q] = useDebouncedValue(search.q?.trim() || undefined, search.q ? 60 : 0);
  const field = TEXT_FIELDS.find((f) => f === search.field) ?? 'alt';
  const language = search.lang ?? 'en';
  const kind = search.view === 'categories' ? 'category' : 'product';
  const [act, setAct] = useState<TextAct>();
  const [rule, setRule] = useState<KeptRule | 'new'>();
  const [texts, setTexts] = useState<Map<string, string>>(new Map());
  const [picked, setPicked] = useState<Set<string>>(new Set());
  const [previewed] = useDebouncedValue(act, 250);
  const shown = { kind, in: search.in, q, field, language } as const;
  const stand = usePictured(shown);
  const whole = act !== undefined && previewed !== undefined && isWhole(previewed);
  const would = usePictured(shown, whole ? { ...previewed, field, language } : undefined, whole);
  // A pattern that can't be read yet leaves the lines as they stand.
  const pages = whole && would.all && !would.error ? would : stand;
  // What is done to all that a filter finds needs all of it here.
  const rest = act && q && !pages.whole ? pages.more : undefined;
  useEffect(() => {
    rest?.();
  });
  const all = useMemo(() => textLines(pages.all ?? []), [pages.all]);
  const lines = useMemo(
    () =>
      search.show
        ? all.filter((l) => (search.show === 'any' ? l.problems.length > 0 : l.problems.includes(search.show ?? '')))
        : all,
    [all, search.show],
  );
  const focus = useFocus(lines, search.at);
  const line = lines[focus];
  const cols = useMemo(() => columns(texts, picked, act !== undefined), [texts, picked, act]);
  useTitle('catalogue', t('wording.title'));
  const find = () => filterField.current?.focus();
  useKeys([
    ['/', find, { preventDefault: true }],
    ['f', find, { preventDefault: true }],
  ]);
  const go = (part: Record<string, string | number | undefined>) =>
    void navigate({ to: '/catalogue/wording', search: (s) => ({ ...s, ...part }), replace: true });
  const say = (l: TextLine, text: string) => setTexts((was) => new Map(was).set(l.key, text));
  const toggle = (l: TextLine) =>
    setPicked((was) => {
      const next = new Set(was);
      if (!next.delete(l.key)) next.add(l.key);
      return next;
    });
  const languages = [...new Set(['en', ...(rules ?? []).map((r) => r.language), language])];
  return (
    <Bench
      rail={
        <CatalogueRail view="wording">
          <h2 className="railhead">{t('wording.found')}</h2>
          <Filter name={t('catalogue.all')} on={!search.show} onClick={() => go({ show: undefined })} />
          <Filter name={t('wording.any_problem')} on={search.show === 'any'} onClick={() => go({ show: 'any' })} />
          {PROBLEMS.map((p) => (
            <Filter
              key={p}
              quiet
              name={named(`text_problem.${p}`)}
              on={search.show === p}
              onClick={() => go({ show: search.show === p ? undefined : p })}
            />
          ))}
          <RuleList rules={rules ?? []} mayEdit={mayEdit} onRule={setRule} />
        </CatalogueRail>
      }
      board={
        <>
          <header className="top">
            <div className="row">
              <h1>{t('wording.title')}</h1>
              <p className="soft grow">
                {pages.whole ? t('wording.count', { count: lines.length }) : t('wording.first', { n: lines.length })}
              </p>
            </div>
            <div className="row">
              <Select
                aria-label={t('wording.whose')}
                data={[
                  { value: 'product', label: t('wording.products') },
                  { value: 'category', label: t('wording.categories') },
                ]}
                value={kind}
                allowDeselect={false}
                w={190}
                onChange={(k) =>
                  go({ view: k === 'category' ? 'categories' : undefined, in: undefined, at: undefined })
                }
              />
              <Select
                aria-label={t('wording.which')}
                data={TEXT_FIELDS.map((f) => ({ value: f, label: named(`text_field.${f}`) }))}
                value={field}
                allowDeselect={false}
                w={120}
                onChange={(f) => go({ field: f ?? undefined })}
              />
              <Select
                aria-label={t('wording.language')}
                data={languages}
                value={language}
                allowDeselect={false}
                w={70}
                onChange={(lang) => go({ lang: lang ?? undefined })}
              />
              <FilterField
                ref={filterField}
                label={t('catalogue.filter')}
                value={search.q ?? ''}
                onChange={(q) => go({ q })}
              />
              {mayEdit && !act && (
                <Button onClick={() => setAct({ act: 'replace', field, language })}>{t('wording.change_many')}</Button>
              )}
            </div>
          </header>
          {act && (
            <ActForm
              act={{ ...act, field, language }}
              onChange={setAct}
              error={whole ? would.error?.message : undefined}
              onClose={() => setAct(undefined)}
            />
          )}
          {lines.length > 0 ? (
            <Board
              name="wording"
              label={t('wording.title')}
              lines={lines}
              total={pages.whole ? lines.length : -1}
              at={focus}
              height={58}
              narrowHeight={110}
              onMore={pages.more}
              onAll={pages.fetchAll}
              onAt={(n) => go({ at: lines[n]?.id })}
              selected={(l) => picked.has(l.key)}
              onKey={(key) => {
                if (key !== ' ' || !line) return false;
                toggle(line);
                return true;
              }}
              onOpen={(n) =>
                lines[n] && void navigate({ to: '/catalogue/shop/$owner', params: { owner: String(lines[n].owner) } })
              }
              columns={cols}
              autoFocus={!search.q}
            />
          ) : pages.all ? (
            <Empty title={t('wording.none')} />
          ) : (
            <div className="hush">{t('catalogue.reading')}</div>
          )}
          {rule && (
            <RuleForm
              rule={rule === 'new' ? undefined : rule}
              field={field}
              language={language}
              onClose={() => setRule(undefined)}
            />
          )}
        </>
      }
      glass={
        line && (
          <WordingGlass
            key={line.key}
            line={line}
            field={field}
            language={language}
            text={texts.get(line.key)}
            mayEdit={mayEdit}
            onText={(text) => say(line, text)}
            onFillDown={() => {
              const text = texts.get(line.key) ?? line.text;
              const down = picked.size > 0 ? lines.filter((l) => picked.has(l.key)) : lines.slice(focus);
              setTexts((was) => new Map([...was, ...down.map((l) => [l.key, text] as const)]));
            }}
            picked={picked.size}
          />
        )
      }
      foot={
        <WordingBar
          at={focus}
          lines={all}
          shown={lines.length}
          texts={texts}
          act={act && { ...act, field, language }}
          picked={picked}
          kind={kind}
          within={search.in}
          q={q}
          field={field}
          language={language}
          mayEdit={mayEdit}
          onDone={() => {
            setTexts(new Map());
            setAct(undefined);
          }}
        />
      }
    />
  );
}
