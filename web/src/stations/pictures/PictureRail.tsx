import type { Schemas } from '../../api/client';
import type { Where } from '../../router';
import { Filter } from '../../ui/Filter';
import { named, t } from '../../words/words';

interface Props {
  found?: Schemas['Gallery'];
  search: Where;
  go: (part: Where) => void;
}

/** The filters beside all pictures: of one group any, of several all. Those that would find nothing are not shown. */
export function PictureRail({ found, search, go }: Props) {
  const on = search.show ? search.show.split(',') : [];
  const toggle = (name: string) => {
    const now = on.includes(name) ? on.filter((n) => n !== name) : [...on, name];
    go({ show: now.length ? now.join(',') : undefined, at: undefined });
  };
  return (
    <>
      {on.length + (search.in ? 1 : 0) > 0 && (
        <Filter name={t('pictures.all')} on={false} onClick={() => go({ show: undefined, in: undefined })} />
      )}
      {found?.groups.map((group) => {
        const some = group.filter((name) => on.includes(name) || (found.facets[name] ?? 0) > 0);
        if (some.length === 0) return null;
        return (
          <section key={group[0]}>
            <h2 className="railhead">{named(`pictures.group_${group[0]}`)}</h2>
            {some.map((name) => (
              <Filter
                key={name}
                name={named(`pictures.is_${name}`)}
                count={found.facets[name]}
                on={on.includes(name)}
                onClick={() => toggle(name)}
              />
            ))}
          </section>
        );
      })}
      {found && found.sources.length > 0 && (
        <section>
          <h2 className="railhead">{t('pictures.group_source')}</h2>
          {found.sources.map((s) => (
            <Filter
              key={s.id}
              name={s.name}
              count={s.count}
              on={search.in === s.id}
              onClick={() => go({ in: search.in === s.id ? undefined : s.id, at: undefined })}
            />
          ))}
        </section>
      )}
    </>
  );
}
