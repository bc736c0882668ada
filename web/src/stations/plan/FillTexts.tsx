import { Switch } from '@mantine/core';
import { askWording } from '../../api/hand';
import { useAskOnce } from '../../api/queries';
import { t } from '../../words/words';

/** Whether a plan gives the pictures that are new on their owners their texts by the rules. Only where rules made some. */
export function FillTexts({ plan, counts }: { plan: number; counts: Record<string, number> }) {
  const fill = useAskOnce(
    (on: boolean) => askWording.fill({ plan, on }),
    [
      ['plan', plan],
      ['changes', plan],
    ],
  );
  if (!counts.texts && !counts.texts_off) return null;
  return (
    <Switch
      className="padded"
      label={t('plan.texts_fill')}
      checked={!counts.texts_off}
      disabled={fill.isPending}
      onChange={(e) => fill.mutate(e.currentTarget.checked)}
    />
  );
}
