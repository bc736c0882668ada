import type { KeptRule } from '../../api/hand';
import { named, t } from '../../words/words';

interface Props {
  rules: KeptRule[];
  mayEdit: boolean;
  onRule: (rule: KeptRule | 'new') => void;
}

/** The rules by which texts are made, to be opened. */
export function RuleList({ rules, mayEdit, onRule }: Props) {
  return (
    <>
      <h2 className="railhead">{t('wording.rules')}</h2>
      {rules.map((r) => (
        <button type="button" key={r.id} className="filter rule" disabled={!mayEdit} onClick={() => onRule(r)}>
          <span className="grow">
            {named(`text_field.${r.field}`)} · {r.language}
            {r.kind || r.branchTitle
              ? ` · ${[r.kind && named(`owner.${r.kind}`), r.branchTitle].filter(Boolean).join(', ')}`
              : ''}
            <br />
            <span className="soft mono">{r.pattern}</span>
          </span>
        </button>
      ))}
      {mayEdit && (
        <button type="button" className="filter linkish" onClick={() => onRule('new')}>
          {t('wording.add_rule')}
        </button>
      )}
    </>
  );
}
