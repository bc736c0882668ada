import { Button, Checkbox, NumberInput, TextInput } from '@mantine/core';
import type { Guide, Inferred, Pointed } from '../../api/guides';
import { count } from '../../ui/format';
import { named, t } from '../../words/words';
import { Larger } from './Larger';
import { type Step, selectorOf, withSelector } from './steps';
import type { Trial } from './useTry';

interface Props {
  guide: Guide;
  step: Step;
  found?: Pointed;
  trial?: Trial;
  onlyLook: boolean;
  clear: () => void;
  onChange: (guide: Guide) => void;
}

/** One step of a guide: what to point at, the selector that was inferred, what it finds, and what only this step has. */
export function StepForm({ guide, step, found, trial, onlyLook, clear, onChange }: Props) {
  const selector = selectorOf(guide, step);
  const set = (value: string) => onChange(withSelector(guide, step, value));
  return (
    <section className="formstack">
      <h2>{named(`pages.step_${step}`)}</h2>
      <p className="soft">{named(`pages.about_${step}`)}</p>
      <TextInput
        label={t('pages.selector')}
        description={t('pages.selector_what')}
        classNames={{ input: 'mono' }}
        value={selector}
        maxLength={1000}
        readOnly={onlyLook}
        onChange={(e) => set(e.currentTarget.value)}
      />
      {selector && found && (
        <p role="status" className={found.count === 0 ? 'wrong' : ''}>
          <b className="figures">{count(found.count)}</b> {t('pages.on_this_page', { count: found.count })}
          {found.texts.filter(Boolean).length > 0 && (
            <span className="soft"> {found.texts.filter(Boolean).slice(0, 3).join(' · ').slice(0, 160)}</span>
          )}
        </p>
      )}
      {selector && !onlyLook && (
        <Button
          size="compact-sm"
          className="fit"
          onClick={() => {
            set('');
            clear();
          }}
        >
          {t('pages.clear')}
        </Button>
      )}
      {step === 'next' && <NextFields guide={guide} onChange={onChange} />}
      {(step === 'sku' || step === 'title' || step === 'barcode') && (
        <TextInput
          label={t('pages.pattern')}
          description={t('pages.pattern_what')}
          classNames={{ input: 'mono' }}
          value={guide[step]?.pattern ?? ''}
          onChange={(e) =>
            onChange({ ...guide, [step]: { ...guide[step], pattern: e.currentTarget.value || undefined } })
          }
        />
      )}
      {step === 'pictures' && (
        <>
          <Least guide={guide} onChange={onChange} />
          <Larger
            guide={guide}
            offered={trial?.items.flatMap((i) => i.rules ?? []) ?? NONE}
            small={trial?.items.flatMap((i) => i.pictures?.map((p) => p.shown) ?? []) ?? []}
            onChange={onChange}
          />
        </>
      )}
      {step === 'not' && <NotFields guide={guide} onChange={onChange} />}
      {step === 'items' && <LimitFields guide={guide} onChange={onChange} />}
      {step === 'items' && (
        <Checkbox
          label={t('pages.shown')}
          checked={guide.shown ?? false}
          onChange={(e) => onChange({ ...guide, shown: e.currentTarget.checked || undefined })}
        />
      )}
    </section>
  );
}

const NONE: Inferred[] = [];

type Fields = Pick<Props, 'guide' | 'onChange'>;

function Least({ guide, onChange }: Fields) {
  return (
    <NumberInput
      hideControls
      label={t('pages.least')}
      description={t('pages.least_what')}
      min={0}
      max={100000}
      value={guide.not?.least || ''}
      onChange={(n) => onChange({ ...guide, not: { ...guide.not, least: Number(n) || undefined } })}
    />
  );
}

function NextFields({ guide, onChange }: Fields) {
  const next = guide.next ?? {};
  const set = (part: Partial<typeof next>) => onChange({ ...guide, next: { ...next, ...part } });
  return (
    <>
      <TextInput
        label={t('pages.by_number')}
        description={t('pages.by_number_what')}
        classNames={{ input: 'mono' }}
        value={next.number ?? ''}
        onChange={(e) => set({ number: e.currentTarget.value || undefined })}
      />
      {next.number && (
        <NumberInput
          hideControls
          label={t('pages.last_number')}
          min={0}
          value={next.last || ''}
          onChange={(n) => set({ last: Number(n) || undefined })}
        />
      )}
    </>
  );
}

function NotFields({ guide, onChange }: Fields) {
  const not = guide.not ?? {};
  const set = (part: Partial<typeof not>) => onChange({ ...guide, not: { ...not, ...part } });
  return (
    <>
      <Least guide={guide} onChange={onChange} />
      <TextInput
        label={t('pages.places')}
        description={t('pages.places_what')}
        defaultValue={(not.places ?? []).join(', ')}
        onChange={(e) => {
          const places = e.currentTarget.value
            .split(/[^-\d]+/)
            .map(Number)
            .filter(Boolean);
          set({ places: places.length > 0 ? places : undefined });
        }}
      />
      <TextInput
        label={t('pages.not_address')}
        value={not.address ?? ''}
        onChange={(e) => set({ address: e.currentTarget.value || undefined })}
      />
      <TextInput
        label={t('pages.not_alt')}
        value={not.alt ?? ''}
        onChange={(e) => set({ alt: e.currentTarget.value || undefined })}
      />
      <NumberInput
        hideControls
        label={t('pages.widest')}
        description={t('pages.widest_what')}
        min={0}
        value={not.widest || ''}
        onChange={(n) => set({ widest: Number(n) || undefined })}
      />
      <Checkbox
        label={t('pages.videos')}
        checked={not.videos ?? false}
        onChange={(e) => set({ videos: e.currentTarget.checked || undefined })}
      />
    </>
  );
}

function LimitFields({ guide, onChange }: Fields) {
  const limits = guide.limits ?? {};
  const set = (part: Partial<typeof limits>) => onChange({ ...guide, limits: { ...limits, ...part } });
  return (
    <div className="row two-fields">
      <NumberInput
        hideControls
        label={t('pages.most_pages')}
        placeholder="200"
        value={limits.pages || ''}
        onChange={(n) => set({ pages: Number(n) || undefined })}
      />
      <NumberInput
        hideControls
        label={t('pages.most_items')}
        placeholder="5000"
        value={limits.items || ''}
        onChange={(n) => set({ items: Number(n) || undefined })}
      />
      <NumberInput
        hideControls
        label={t('pages.pause')}
        placeholder="0.5"
        decimalScale={1}
        min={0}
        value={limits.pause ?? ''}
        onChange={(n) => set({ pause: n === '' ? undefined : Number(n) })}
      />
    </div>
  );
}
