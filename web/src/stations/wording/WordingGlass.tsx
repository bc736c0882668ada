import { Button, Textarea } from '@mantine/core';
import type { TextField } from '../../api/hand';
import { Look } from '../../ui/Look';
import { plainly } from '../../ui/Met';
import { named, t } from '../../words/words';
import type { TextLine } from './wordingColumns';

interface Props {
  line: TextLine;
  field: TextField;
  language: string;
  /** What is written and not yet a plan. */
  text?: string;
  mayEdit: boolean;
  onText: (text: string) => void;
  onFillDown: () => void;
  picked: number;
}

const MOST_ALT = 125;

/** The picture in focus, large, and its text to write. */
export function WordingGlass({ line, field, language, text, mayEdit, onText, onFillDown, picked }: Props) {
  const now = text ?? line.text;
  return (
    <div className="ownerhand">
      <Look sha={line.sha} alt={now} />
      <p>
        <b className="mono">{line.sku}</b> {line.label}
        <br />
        <span className="soft mono wrap">{plainly(line.name)}</span>
      </p>
      <Textarea
        label={`${named(`text_field.${field}`)} (${language})`}
        description={field === 'alt' ? t('wording.length', { n: [...now].length, most: MOST_ALT }) : undefined}
        value={now}
        lang={language}
        readOnly={!mayEdit}
        autosize
        minRows={2}
        maxLength={2000}
        onChange={(e) => onText(e.currentTarget.value)}
      />
      {mayEdit && (
        <Button size="compact-sm" onClick={onFillDown} disabled={!now}>
          {picked > 0 ? t('wording.fill_picked', { count: picked }) : t('wording.fill_down')}
        </Button>
      )}
      {line.problems.length > 0 && (
        <ul className="plain">
          {line.problems.map((p) => (
            <li key={p}>
              <span className="wrong">{named(`text_problem.${p}`)}</span>
              <br />
              <span className="soft">{named(`text_why.${p}`)}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
