import { Button, TextInput } from '@mantine/core';
import type { RefObject } from 'react';
import type { Line, Pairing } from '../../api/client';
import type { Where } from '../../router';
import { bytes, count, plural, when } from '../../ui/format';
import { Progress } from '../../ui/Progress';
import { brief } from '../../words/messages';
import { byGroup } from './kinds';
import { TrialBoard } from './TrialBoard';
import './PairTop.css';

interface Props {
  pairing: Pairing;
  lines: Line[];
  group: string | undefined;
  byOwner: boolean;
  mayEdit: boolean;
  q: string | undefined;
  filterField: RefObject<HTMLInputElement | null>;
  go: (part: Where) => void;
  fixGroup: () => void;
}

/** What stands above the lines: the delivery, how it is looked at, the trial board, and a group that can be paired at once. */
export function PairTop({ pairing, lines, group, byOwner, mayEdit, q, filterField, go, fixGroup }: Props) {
  const d = pairing.delivery;
  const here = pairing.lines.length;
  const differs = brief(lines[0] && group !== undefined && byGroup(lines[0], group)?.differs);
  return (
    <header className="top">
      <div className="row">
        <div className="grow">
          <h1>{d.title}</h1>
          <p className="soft">
            {plural(d.lines, 'file')} · {bytes(d.bytes)} · {when(d.createdAt)}
          </p>
        </div>
        <fieldset className="views" aria-label="Look at it">
          <button type="button" aria-pressed={!byOwner} onClick={() => go({ view: undefined, at: undefined })}>
            by file
          </button>
          <button type="button" aria-pressed={byOwner} onClick={() => go({ view: 'owner', at: undefined })}>
            by owner
          </button>
        </fieldset>
        <TextInput
          ref={filterField}
          className="filterfield"
          aria-label="Filter the lines by file or SKU"
          placeholder="Filter by file or SKU"
          rightSection={<kbd>/</kbd>}
          value={q ?? ''}
          onChange={(e) => go({ q: e.currentTarget.value || undefined, at: undefined })}
          onKeyDown={(e) => {
            if (e.key !== 'Enter' && e.key !== 'Escape') return;
            document.querySelector<HTMLElement>('.lines .scroll')?.focus();
          }}
        />
      </div>
      <TrialBoard delivery={d.id} ladder={pairing.ladder} habits={pairing.habits} mayEdit={mayEdit} />
      {group !== undefined && lines.length > 0 && (
        <p className="notice row">
          <span className="grow">
            {plural(lines.length, 'unclaimed line')} would match an owner, except that {differs}.
          </span>
          {mayEdit && (
            <Button size="compact-sm" className="go" onClick={fixGroup} disabled={here < pairing.total}>
              Pair all {count(lines.length)}
            </Button>
          )}
        </p>
      )}
      {here < pairing.total && <Progress label="Reading the lines" done={here} of={pairing.total} />}
    </header>
  );
}
