import { Button, TextInput } from '@mantine/core';
import { useState } from 'react';
import { askPages, type Guide, type Inferred, type Rule } from '../../api/guides';
import { useAskOnce } from '../../api/queries';
import { t } from '../../words/words';

interface Props {
  guide: Guide;
  /** Rules that pages showed by themselves. */
  offered: Inferred[];
  /** Addresses of small pictures to try a rule on. */
  small: string[];
  onChange: (guide: Guide) => void;
}

const same = (a: Rule, b: Rule) => JSON.stringify(a) === JSON.stringify(b);

/** The rules that lead from small pictures to large ones: inferred from an example, or shown by the page. */
export function Larger({ guide, offered, small, onChange }: Props) {
  const [example, setExample] = useState({ small: '', large: '' });
  const rules = guide.larger ?? [];
  const set = (larger: Rule[]) => onChange({ ...guide, larger: larger.length > 0 ? larger : undefined });
  const infer = useAskOnce(() => askPages.rule([example], small.slice(0, 100)), []);
  const fresh = offered.filter(
    (o, i) => !rules.some((r) => same(r, o.rule)) && offered.findIndex((p) => same(p.rule, o.rule)) === i,
  );
  return (
    <fieldset className="larger">
      <legend>{t('pages.larger')}</legend>
      <p className="soft">{t('pages.larger_what')}</p>
      <ul>
        {rules.map((r) => (
          <li key={JSON.stringify(r)} className="row">
            <span className="grow mono wrap">{inWords(r)}</span>
            <Button size="compact-xs" onClick={() => set(rules.filter((o) => o !== r))}>
              {t('pages.remove_rule')}
            </Button>
          </li>
        ))}
        {fresh.map((o) => (
          <li key={o.says} className="row">
            <span className="grow mono wrap">{inWords(o.rule)}</span>
            <Button size="compact-xs" onClick={() => set([...rules, o.rule])}>
              {t('pages.take_rule')}
            </Button>
          </li>
        ))}
      </ul>
      <details>
        <summary>{t('pages.by_example')}</summary>
        <div className="formstack">
          <TextInput
            label={t('pages.small_address')}
            classNames={{ input: 'mono' }}
            value={example.small}
            onChange={(e) => setExample({ ...example, small: e.currentTarget.value.trim() })}
          />
          <TextInput
            label={t('pages.large_address')}
            classNames={{ input: 'mono' }}
            value={example.large}
            onChange={(e) => setExample({ ...example, large: e.currentTarget.value.trim() })}
          />
          <Button
            size="compact-sm"
            className="fit"
            disabled={!example.small || !example.large}
            loading={infer.isPending}
            onClick={() => infer.mutate(undefined, { onSuccess: (found) => set([...rules, found.rule]) })}
          >
            {t('pages.infer')}
          </Button>
          {infer.error && <p className="wrong">{infer.error.message}</p>}
          {infer.data && <Leads found={infer.data} />}
        </div>
      </details>
    </fieldset>
  );
}

/** Where a rule leads from the small pictures of the try, and how large what is there is. */
function Leads({ found }: { found: Inferred }) {
  const fits = found.leads.filter(Boolean).length;
  return (
    <>
      <p>{t('pages.rule_fits', { count: fits, of: found.leads.length })}</p>
      <ul className="leftout">
        {found.leads.map((address, i) => {
          const size = found.sizes?.[i];
          if (!address || !size) return null;
          return (
            <li key={address}>
              <span className="mono wrap">{address}</span>
              <b className="figures">{size.width > 0 ? `${size.width} × ${size.height}` : t('pages.nothing_there')}</b>
            </li>
          );
        })}
      </ul>
    </>
  );
}

/** A rule in words, in the language that is shown. */
function inWords(rule: Rule): string {
  return rule.steps
    .map(({ in: part, from, by }) => {
      const where = t(`pages.part_${part}` as 'pages.part_path');
      if (!from) return t('pages.rule_put', { by, where });
      if (!by) return t('pages.rule_take', { from, where });
      return t('pages.rule_replace', { from, by, where });
    })
    .join('; ');
}
