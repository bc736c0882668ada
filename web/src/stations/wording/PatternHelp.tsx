import { t } from '../../words/words';

const FIELDS = [
  'label',
  'product.title',
  'product.sku',
  'variant.colour',
  'variant.size',
  'category.title',
  'category.path',
  'role',
  'number',
  'supplier',
  'alt',
];

/** What a pattern may say. */
export function PatternHelp() {
  return (
    <details className="patternhelp">
      <summary>{t('wording.help')}</summary>
      <dl>
        <dt className="mono">{'{product.title}'}</dt>
        <dd>{t('wording.help_field', { fields: FIELDS.join(', ') })}</dd>
        <dt className="mono">{'{role|front view}'}</dt>
        <dd>{t('wording.help_instead')}</dd>
        <dt className="mono">{'[ in {variant.colour}]'}</dt>
        <dd>{t('wording.help_optional')}</dd>
        <dt className="mono">{'{product.title:upper:max 40}'}</dt>
        <dd>{t('wording.help_acts')}</dd>
        <dt className="mono">{'{number:00}'}</dt>
        <dd>{t('wording.help_number')}</dd>
      </dl>
    </details>
  );
}
