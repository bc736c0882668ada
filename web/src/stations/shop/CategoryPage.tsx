import { Link } from '@tanstack/react-router';
import { pictureURL } from '../../api/client';
import type { ShopPage } from '../../api/hand';
import { t } from '../../words/words';

interface Props {
  page: ShopPage;
  search: { plan?: number; side?: string; lang?: string };
}

/** A category's page: its picture, and what is in it as tiles. */
export function CategoryPage({ page, search }: Props) {
  const main = page.pictures[0];
  return (
    <>
      <header className="shopcategory">
        {main && <img src={pictureURL(main.sha, 480)} alt={main.alt ?? ''} />}
        <h1>{page.title}</h1>
      </header>
      <ul className="shoptiles">
        {page.tiles?.map((it) => (
          <li key={it.id}>
            <Link to="/catalogue/shop/$owner" params={{ owner: String(it.id) }} search={search}>
              {it.pictures[0] ? (
                <img src={pictureURL(it.pictures[0].sha, 480)} alt={it.pictures[0].alt ?? ''} loading="lazy" />
              ) : (
                <span className="shopnone">{t('shop.no_picture')}</span>
              )}
              <span>{it.title}</span>
            </Link>
          </li>
        ))}
      </ul>
      {page.tiles?.length === 0 && <p className="soft">{t('shop.empty')}</p>}
      {page.more && <p className="soft">{t('shop.more')}</p>}
    </>
  );
}
