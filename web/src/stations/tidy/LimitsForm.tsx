import { Button, Checkbox, Modal, NumberInput } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { type Limits, limitsQuery, tidy } from '../../api/tidy';
import { complain } from '../../ui/complain';
import { useMayAdmin } from '../../ui/mayAdmin';
import { t } from '../../words/words';

const FIGURES = [
  'longerSide',
  'enlargedPercent',
  'paddedPercent',
  'usualPercent',
  'leastPictures',
  'youngDays',
  'undoDays',
  'binDays',
  'stalePlanDays',
] as const;
const SWITCHES = ['untagged', 'emptiesByClock'] as const;

/** Opens the limits, for those who may set them. */
export function LimitsButton() {
  const [open, setOpen] = useState(false);
  const limits = useQuery(limitsQuery).data;
  if (!useMayAdmin() || !limits) return null;
  return (
    <>
      <Button onClick={() => setOpen(true)}>{t('tidy.limits')}</Button>
      {open && <LimitsForm limits={limits} onClose={() => setOpen(false)} />}
    </>
  );
}

function LimitsForm({ limits, onClose }: { limits: Limits; onClose: () => void }) {
  const [now, setNow] = useState(limits);
  const [busy, setBusy] = useState(false);
  const queries = useQueryClient();
  const save = async () => {
    setBusy(true);
    try {
      await tidy.setLimits(now);
      await queries.invalidateQueries({ queryKey: ['tidy'] });
      onClose();
    } catch (error) {
      complain(error);
      setBusy(false);
    }
  };
  return (
    <Modal opened onClose={onClose} title={t('tidy.limits_title')} closeButtonProps={{ 'aria-label': t('page.close') }}>
      {FIGURES.map((f) => (
        <NumberInput
          hideControls
          key={f}
          label={t(`tidy.limit_${f}`)}
          value={now[f]}
          min={0}
          allowDecimal={false}
          onChange={(n) => setNow({ ...now, [f]: Number(n) || 0 })}
        />
      ))}
      {SWITCHES.map((f) => (
        <Checkbox
          key={f}
          mt="xs"
          label={t(`tidy.limit_${f}`)}
          checked={now[f]}
          onChange={(e) => setNow({ ...now, [f]: e.currentTarget.checked })}
        />
      ))}
      <div className="row answers">
        <span className="grow" />
        <Button onClick={onClose}>{t('page.keep')}</Button>
        <Button className="go" loading={busy} onClick={() => void save()}>
          {t('tidy.limits_save')}
        </Button>
      </div>
    </Modal>
  );
}
