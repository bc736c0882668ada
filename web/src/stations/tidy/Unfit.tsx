import { Button, Checkbox } from '@mantine/core';
import { useMemo, useState } from 'react';
import { gallery } from '../../api/gallery';
import { type UnfitFind, useUnfit } from '../../api/tidy';
import { useMayEdit } from '../../ui/session';
import { usePicks } from '../../ui/usePicks';
import { usePlanned } from '../../ui/usePlanned';
import { named, t } from '../../words/words';
import { pictureFirst, pixels, used } from '../pictures/pictureColumns';
import { FindBoard } from './FindBoard';
import { LimitsButton } from './LimitsForm';
import type { Focus } from './Tidy';

const figure = (f: UnfitFind['faults'][number]) =>
  named(`tidy.figure_${f.fault}`, {
    figure: f.fault === 'enlarged' || f.fault === 'not_square' ? f.figure.toFixed(1) : Math.round(f.figure),
  });

/** Pictures with one fault, with its figure and the limit to set. */
export function Unfit({ faults, onFocus }: { faults: string; onFocus: (f: Focus) => void }) {
  const [everywhere, setEverywhere] = useState(false);
  const finds = useUnfit(faults, everywhere);
  const mayEdit = useMayEdit();
  const { picked, toggle } = usePicks();
  const { busy, plan } = usePlanned();
  const some = [...picked];
  const columns = useMemo(
    () => [
      ...pictureFirst<UnfitFind>(picked),
      {
        id: 'figure',
        name: t('tidy.figure'),
        width: 'minmax(120px, 1fr)',
        className: 'clip',
        cell: (u: UnfitFind) =>
          u.faults
            .filter((f) => f.fault === faults)
            .map(figure)
            .join(', '),
        text: (u: UnfitFind) => u.faults.map(figure).join(', '),
      },
      pixels<UnfitFind>(),
      used<UnfitFind>(),
      {
        id: 'also',
        name: t('tidy.also'),
        width: 'minmax(70px, 0.6fr)',
        className: 'clip',
        wide: true,
        cell: (u: UnfitFind) =>
          u.faults
            .filter((f) => f.fault !== faults)
            .map((f) => named(`tidy.unfit_${f.fault}`))
            .join(', '),
      },
    ],
    [picked, faults],
  );
  return (
    <FindBoard
      name="unfit"
      title={named(`tidy.unfit_${faults}`)}
      says={named(`tidy.what_${faults}`)}
      acts={
        <>
          <Checkbox
            label={t('tidy.everywhere')}
            checked={everywhere}
            onChange={(e) => setEverywhere(e.currentTarget.checked)}
          />
          {mayEdit && some.length > 0 && (
            <Button
              loading={busy}
              onClick={() =>
                void plan(() =>
                  gallery.plan({
                    act: 'tag',
                    text: 'keep',
                    pictures: some,
                    title: t('pictures.plan_tag', { count: some.length }),
                  }),
                )
              }
            >
              {t('tidy.tag_keep', { count: some.length })}
            </Button>
          )}
          <LimitsButton />
        </>
      }
      finds={finds}
      columns={columns}
      none={t('tidy.no_unfit')}
      onAt={(u) => onFocus({ sha: u.sha })}
      picked={picked}
      id={(u) => u.id}
      onPick={toggle}
    />
  );
}
