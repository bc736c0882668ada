import type { Line } from '../../api/client';
import type { Act } from '../../ui/acts';
import { t } from '../../words/words';
import type { useHand } from './useHand';

/** What can be done with the lines in hand, for the menu of a row: what the keys do. Where no compare is given, nothing is compared. */
export function lineActs(line: Line, hand: ReturnType<typeof useHand>, mayEdit: boolean, compare?: () => void): Act[] {
  const customer = () => window.open(`/catalogue/shop/${line.owner}`);
  const looks = [
    { name: t('act.as_customer'), key: 'w', does: customer, off: !line.owner },
    ...(compare ? [{ name: t('act.compare'), key: 'm', does: compare, off: !line.sha }] : []),
    { name: t('act.copy'), key: 'Ctrl C', does: hand.copy },
    { name: t('act.zip'), does: hand.zip },
  ];
  if (!mayEdit) return looks;
  return [
    { name: t('act.accept'), key: 'Enter', does: () => hand.accept(), off: !line.owner },
    { name: t('pair.another'), key: 's', does: () => hand.setSeeking('owner') },
    { name: t('pair.also'), key: 'a', does: () => hand.setSeeking('share'), off: !line.owner },
    { name: t('pair.aside'), key: 'x', does: hand.setAside },
    { name: t('act.check'), key: 'c', does: hand.check },
    { name: t('act.first'), key: 'Alt Shift ↑', does: () => hand.move('first'), off: !line.owner },
    { name: t('act.earlier'), key: 'Alt ↑', does: () => hand.move('earlier'), off: !line.owner },
    { name: t('act.later'), key: 'Alt ↓', does: () => hand.move('later'), off: !line.owner },
    { name: t('act.last'), key: 'Alt Shift ↓', does: () => hand.move('last'), off: !line.owner },
    ...looks,
  ];
}
