import { Button, Modal, NumberInput, Select, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { askWording, type KeptRule, TEXT_FIELDS, type TextField, type TextRule, usePictured } from '../../api/hand';
import { categoriesQuery, useAskOnce } from '../../api/queries';
import { Thumb } from '../../ui/Thumb';
import { named, t } from '../../words/words';
import { choices } from '../hand/CatalogueRail';
import { PatternHelp } from './PatternHelp';
import { textLines } from './wordingColumns';

const KINDS = ['product', 'variant', 'category'] as const;
const CASES = ['upper', 'lower', 'title', 'sentence'] as const;
const touched = [['wording-rules'], ['pictured']];
const SHOWN = 6;

interface Props {
  rule?: KeptRule;
  field: TextField;
  language: string;
  onClose: () => void;
}

/** A rule by which texts are made, with what it makes of real pictures while it is written. */
export function RuleForm({ rule, field, language, onClose }: Props) {
  const [of, setOf] = useState<TextRule>(
    rule
      ? {
          kind: rule.kind,
          branch: rule.branch,
          language: rule.language,
          field: rule.field,
          pattern: rule.pattern,
          most: rule.most,
          case: rule.case,
        }
      : { language, field, pattern: '{product.title}[ in {variant.colour}][, {role}]' },
  );
  const set = (part: Partial<TextRule>) => setOf((now) => ({ ...now, ...part }));
  const categories = useQuery(categoriesQuery).data;
  const tree = useMemo(() => choices((categories ?? []).filter((c) => !c.retired)), [categories]);
  const keep = useAskOnce(async () => {
    if (rule) await askWording.setRule({ id: rule.id, ...of });
    else await askWording.addRule(of);
  }, touched);
  const remove = useAskOnce(() => askWording.removeRule(rule?.id ?? 0), touched);
  const done = { onSuccess: onClose };
  return (
    <Modal
      opened
      onClose={onClose}
      size="xl"
      title={t(rule ? 'wording.rule_edit' : 'wording.rule_new')}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <form
        className="formstack"
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate(undefined, done);
        }}
      >
        <div className="fields row">
          <Select
            label={t('wording.which')}
            data={TEXT_FIELDS.map((f) => ({ value: f, label: named(`text_field.${f}`) }))}
            value={of.field}
            allowDeselect={false}
            onChange={(f) => set({ field: (f ?? 'alt') as TextField })}
          />
          <TextInput
            label={t('wording.language')}
            value={of.language}
            required
            onChange={(e) => set({ language: e.currentTarget.value.trim() })}
          />
          <Select
            label={t('wording.for_kind')}
            data={[
              { value: '', label: t('wording.all_kinds') },
              ...KINDS.map((k) => ({ value: k, label: named(`owner.${k}`) })),
            ]}
            value={of.kind ?? ''}
            allowDeselect={false}
            onChange={(k) => set({ kind: (k || undefined) as TextRule['kind'] })}
          />
          <Select
            label={t('wording.for_branch')}
            data={[{ value: '0', label: t('wording.everywhere') }, ...tree]}
            value={String(of.branch ?? 0)}
            searchable
            allowDeselect={false}
            onChange={(b) => set({ branch: Number(b) || undefined })}
          />
        </div>
        <TextInput
          label={t('wording.pattern')}
          classNames={{ input: 'mono' }}
          value={of.pattern}
          required
          data-autofocus
          onChange={(e) => set({ pattern: e.currentTarget.value })}
        />
        <PatternHelp />
        <div className="fields row">
          <NumberInput
            hideControls
            label={t('wording.most')}
            min={0}
            max={2000}
            value={of.most || ''}
            onChange={(n) => set({ most: Number(n) || undefined })}
          />
          <Select
            label={t('wording.case')}
            data={[
              { value: '', label: t('wording.case_none') },
              ...CASES.map((c) => ({ value: c, label: t(`wording.case_${c}`) })),
            ]}
            value={of.case ?? ''}
            allowDeselect={false}
            onChange={(c) => set({ case: (c || undefined) as TextRule['case'] })}
          />
        </div>
        <Preview of={of} />
        <div className="row answers">
          {rule && (
            <Button
              variant="subtle"
              className="quietbutton"
              loading={remove.isPending}
              onClick={() => remove.mutate(undefined, done)}
            >
              {t('wording.rule_remove')}
            </Button>
          )}
          <span className="grow" />
          <Button onClick={onClose}>{t('page.keep')}</Button>
          <Button type="submit" className="go" loading={keep.isPending}>
            {t('wording.rule_save')}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

/** What a rule would make of the first pictures that it applies to. */
function Preview({ of }: { of: TextRule }) {
  const [asked] = useDebouncedValue(of, 250);
  const pages = usePictured(
    {
      kind: asked.kind === 'category' ? 'category' : 'product',
      in: asked.branch,
      field: asked.field,
      language: asked.language || 'en',
    },
    {
      act: 'pattern',
      field: asked.field,
      language: asked.language,
      pattern: asked.pattern || ' ',
      most: asked.most,
      case: asked.case,
      over: true,
    },
  );
  if (pages.error) return <p className="wrong">{pages.error.message}</p>;
  const owners = (pages.all ?? []).filter((o) => !asked.kind || o.kind === asked.kind);
  const lines = textLines(owners).slice(0, SHOWN);
  return (
    <section aria-label={t('wording.preview')} className="rulepreview">
      <h3>{t('wording.preview')}</h3>
      {lines.length === 0 && <p className="soft">{t('wording.no_example')}</p>}
      <ul className="plain">
        {lines.map((l) => (
          <li key={l.key} className="row">
            <Thumb sha={l.sha} size={36} />
            <span>
              <b lang={asked.language}>{l.next ?? l.text}</b>
              <br />
              <span className="wrong">{l.problems.map((p) => named(`text_problem.${p}`)).join(' · ')}</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
