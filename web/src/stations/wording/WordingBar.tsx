import { Button } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { askWording, type TextAct, type TextField } from '../../api/hand';
import { useAskOnce } from '../../api/queries';
import { named, t } from '../../words/words';
import type { TextLine } from './wordingColumns';

interface Props {
  at: number;
  lines: TextLine[];
  shown: number;
  /** What is written by hand and not yet a plan, by line. */
  texts: Map<string, string>;
  act?: TextAct;
  picked: Set<string>;
  kind: 'product' | 'category';
  within?: number;
  q?: string;
  field: TextField;
  language: string;
  mayEdit: boolean;
  onDone: () => void;
}

/** The foot: how many texts are changed, and the way to their plan. */
export function WordingBar(p: Props) {
  const navigate = useNavigate();
  const plan = useAskOnce(() => {
    const title = p.act ? t(`wording.act_${p.act.act as 'replace'}`) : named(`text_field.${p.field}`);
    const body = p.act
      ? actOf(p, p.act)
      : { act: 'texts' as const, field: p.field, language: p.language, texts: written(p.lines, p.texts) };
    return askWording.plan({ ...body, title, scope: p.act ? scopeOf(p) : {} });
  }, [['pictured'], ['trail']]);
  const n = p.texts.size;
  const ready = n > 0 || (p.act && isWhole(p.act));
  return (
    <>
      {p.shown > 0 && <span className="figures">{t('wording.line_of', { at: p.at + 1, of: p.shown })}</span>}
      {p.picked.size > 0 && <span>{t('wording.picked', { count: p.picked.size })}</span>}
      <span className="hints" aria-hidden>
        <kbd>j</kbd> <kbd>k</kbd> {t('wording.hint_move')} <kbd>Space</kbd> {t('wording.hint_pick')} <kbd>Enter</kbd>{' '}
        {t('wording.hint_open')}
      </span>
      <span className="grow" />
      {p.mayEdit && ready && (
        <>
          {n > 0 && <b>{t('wording.changed', { count: n })}</b>}
          <Button size="compact-sm" variant="subtle" className="quietbutton" onClick={p.onDone}>
            {t('wording.discard')}
          </Button>
          <Button
            size="compact-sm"
            className="go"
            loading={plan.isPending}
            onClick={() =>
              plan.mutate(undefined, {
                onSuccess: ({ id }) => {
                  p.onDone();
                  void navigate({ to: '/plan/$plan', params: { plan: String(id) } });
                },
              })
            }
          >
            {t('wording.see_plan')}
          </Button>
        </>
      )}
    </>
  );
}

/** Whether all is given that an act needs. */
export const isWhole = (a: TextAct) =>
  ({ replace: !!a.find, same: !!a.text?.trim(), pattern: !!a.pattern?.trim(), rules: true, clear: true, texts: false })[
    a.act
  ];

/** Of picked lines alone their texts are written as they would be; patterns and rules go by the owners of picked lines. */
function actOf(p: Props, act: TextAct): TextAct {
  if (p.picked.size === 0 || act.act === 'pattern' || act.act === 'rules') return act;
  const some = p.lines.filter((l) => p.picked.has(l.key));
  const texts = some.map((l) => ({
    owner: l.owner,
    asset: l.asset,
    text: act.act === 'clear' ? '' : (l.next ?? l.text),
  }));
  return { act: 'texts', field: p.field, language: p.language, texts };
}

function scopeOf(p: Props) {
  const of = p.picked.size > 0 ? p.lines.filter((l) => p.picked.has(l.key)) : p.q ? p.lines : [];
  return {
    kinds:
      p.kind === 'category' ? (['category'] as 'category'[]) : (['product', 'variant'] as ('product' | 'variant')[]),
    category: p.within,
    owners: [...new Set(of.map((l) => l.owner))],
  };
}

const written = (lines: TextLine[], texts: Map<string, string>) =>
  lines.filter((l) => texts.has(l.key)).map((l) => ({ owner: l.owner, asset: l.asset, text: texts.get(l.key) ?? '' }));
