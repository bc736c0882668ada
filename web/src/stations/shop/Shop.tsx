import { Select } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useParams, useSearch } from '@tanstack/react-router';
import { useState } from 'react';
import { type ShopPage, shopQuery, wordingRulesQuery } from '../../api/hand';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { Filter } from '../../ui/Filter';
import { useTitle } from '../../ui/useTitle';
import { t } from '../../words/words';
import { Aloud } from './Aloud';
import { CategoryPage } from './CategoryPage';
import { ProductPage } from './ProductPage';
import './Shop.css';

const SIDES = ['before', 'after', 'now'] as const;
type Side = (typeof SIDES)[number];

/** An owner's page as a customer would see it: now, and before and after a plan. */
export function Shop() {
  const id = Number(useParams({ from: '/catalogue/shop/$owner' }).owner);
  const search = useSearch({ strict: false });
  const navigate = useNavigate();
  const plan = search.plan ?? 0;
  const side: Side = plan ? (SIDES.find((s) => s === search.side) ?? 'after') : 'now';
  const language = search.lang ?? 'en';
  const page = useQuery(shopQuery(id, plan, side, language));
  const rules = useQuery(wordingRulesQuery).data;
  const [small, setSmall] = useState(false);
  const [chosen, setChosen] = useState(0);
  useTitle('catalogue', page.data?.title);
  const go = (part: { side?: Side; lang?: string }) =>
    void navigate({
      to: '/catalogue/shop/$owner',
      params: { owner: String(id) },
      search: (s) => ({ ...s, ...part }),
      replace: true,
    });
  const languages = [...new Set(['en', ...(rules ?? []).map((r) => r.language), language])];
  const shown = page.data && pictured(page.data, chosen);
  return (
    <Bench
      rail={
        <>
          <h2 className="railhead">{t('shop.moment')}</h2>
          {SIDES.filter((s) => plan || s === 'now').map((s) => (
            <Filter key={s} name={t(`shop.side_${s}`)} on={s === side} onClick={() => go({ side: s })} />
          ))}
          {plan > 0 && (
            <p className="soft padded">
              <Link to="/plan/$plan" params={{ plan: String(plan) }}>
                {t('shop.plan', { plan })}
              </Link>
              {page.data && !page.data.changed && side !== 'now' && <> · {t('shop.unchanged')}</>}
            </p>
          )}
          <h2 className="railhead">{t('shop.screen')}</h2>
          <Filter name={t('shop.large')} on={!small} onClick={() => setSmall(false)} />
          <Filter name={t('shop.small')} on={small} onClick={() => setSmall(true)} />
          <div className="padded">
            <Select
              label={t('shop.language')}
              data={languages}
              value={language}
              allowDeselect={false}
              onChange={(lang) => go({ lang: lang ?? 'en' })}
            />
          </div>
          <p className="padded">
            <Link
              to={page.data?.kind === 'category' ? '/catalogue/categories' : '/catalogue/pictures'}
              search={{ at: id, q: page.data?.sku ?? page.data?.title }}
            >
              {t('shop.edit')}
            </Link>
          </p>
        </>
      }
      board={
        page.isError ? (
          <Empty title={t('shop.not_there')}>{page.error.message}</Empty>
        ) : (
          page.data && (
            <div className="shopscroll">
              <article className={small ? 'shopframe small' : 'shopframe'} aria-label={t('shop.frame')}>
                <nav aria-label={t('shop.path')} className="shoppath">
                  {page.data.path.map((c) => (
                    <span key={c.id}>
                      <Link
                        to="/catalogue/shop/$owner"
                        params={{ owner: String(c.id) }}
                        search={{ plan: search.plan, side, lang: search.lang }}
                      >
                        {c.title}
                      </Link>{' '}
                      ›{' '}
                    </span>
                  ))}
                  <span>{page.data.title}</span>
                </nav>
                {page.data.kind === 'category' ? (
                  <CategoryPage page={page.data} search={{ plan: search.plan, side, lang: search.lang }} />
                ) : (
                  <ProductPage page={page.data} chosen={chosen} onChoose={setChosen} />
                )}
              </article>
            </div>
          )
        )
      }
      glass={page.data && shown && <Aloud page={page.data} shown={shown} language={language} />}
    />
  );
}

/** What of a page is shown where a variant is chosen: its pictures, else the product's, else those of the first that has some. */
export function pictured(page: ShopPage, chosen: number) {
  const variants = page.variants ?? [];
  const variant = variants.find((v) => v.id === chosen);
  const own = variant?.pictures.length ? variant.pictures : page.pictures;
  const pictures = own.length ? own : variant ? [] : (variants.find((v) => v.pictures.length)?.pictures ?? []);
  return { variant, pictures };
}
