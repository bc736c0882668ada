import { Button, Modal, Select } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { askHand, type Pictured } from '../../api/hand';
import type { Rule } from '../../api/queries';
import { useAskOnce } from '../../api/queries';
import { Thumb } from '../../ui/Thumb';
import { named, t } from '../../words/words';
import { ruleName, rules } from '../pair/rules';
import { Add } from './Add';

interface Props {
  kind: 'product' | 'category';
  filter: Pictured;
  onClose: () => void;
}

/** Gives one picture to all owners that the board's filters find. */
export function Everywhere({ kind, filter, onClose }: Props) {
  const [sha, setSha] = useState<string>();
  const [rule, setRule] = useState<Rule>('only_where_empty');
  const navigate = useNavigate();
  const title = filter.q || t(kind === 'category' ? 'hand.categories' : 'hand.products');
  const plan = useAskOnce(
    () =>
      askHand.everywhere({
        search: { kind, below: filter.in, q: filter.q, without: filter.without },
        sha: sha ?? '',
        rule,
        title: t('hand.everywhere_title', { title }),
      }),
    [],
  );
  return (
    <Modal
      opened
      onClose={onClose}
      title={t('hand.everywhere_long')}
      size="lg"
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <div className="formstack">
        <p>
          {t(kind === 'category' ? 'hand.everywhere_categories' : 'hand.everywhere_products')}
          {filter.q ? ` ${t('hand.everywhere_q', { q: filter.q })}` : ''}
          {filter.without ? ` ${t('hand.everywhere_without')}` : ''}
        </p>
        {sha ? <Thumb sha={sha} size={120} alt={t('hand.everywhere_chosen')} /> : null}
        <Add title={title} onAdd={(shas) => setSha(shas[0])} />
        <Select
          label={t('hand.rule')}
          data={rules.map((r) => ({ value: r, label: ruleName(r) }))}
          value={rule}
          allowDeselect={false}
          description={named(`rule_does.${rule}`)}
          onChange={(r) => setRule((r ?? 'only_where_empty') as Rule)}
        />
        <div className="row answers">
          <span className="grow" />
          <Button onClick={onClose}>{t('page.keep')}</Button>
          <Button
            className="go"
            disabled={!sha}
            loading={plan.isPending}
            onClick={() =>
              plan.mutate(undefined, {
                onSuccess: ({ id }) => void navigate({ to: '/plan/$plan', params: { plan: String(id) } }),
              })
            }
          >
            {t('hand.see_plan')}
          </Button>
        </div>
      </div>
    </Modal>
  );
}
