import { Button, TextInput } from '@mantine/core';
import type { RefObject } from 'react';
import type { Line, Pairing } from '../../api/client';
import { bytes, count, plural, when } from '../../ui/format';
import { Progress } from '../../ui/Progress';
import { TrialBoard } from './TrialBoard';

interface Props {
  pairing: Pairing;
  lines: Line[];
  group: string | undefined;
  byOwner: boolean;
  mayEdit: boolean;
  q: string | undefined;
  filterField: RefObject<HTMLInputElement | null>;
  go: (part: { at?: number; q?: string; view?: 'owner' }) => void;
  fixGroup: () => void;
}

/** What stands above the lines: the delivery, how it is looked at, the trial board, and a group that can be paired at once. */
export function PairTop({ pairing, lines, group, byOwner, mayEdit, q, filterField, go, fixGroup }: Props) {
  const d = pairing.delivery;
  const here = pairing.lines.length;
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
          <button type="button" aria-pressed={!byOwner} onClick={() => go({ view: undefined, at: 0 })}>
            by file
          </button>
          <button type="button" aria-pressed={byOwner} onClick={() => go({ view: 'owner', at: 0 })}>
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
          onChange={(e) => go({ q: e.currentTarget.value || undefined, at: 0 })}
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
            {plural(lines.length, 'line')} nobody claims; for each there is an owner but {group}.
          </span>
          {mayEdit && (
            <Button size="compact-sm" className="go" onClick={fixGroup} disabled={here < pairing.total}>
              Pair all {count(lines.length)} so
            </Button>
          )}
        </p>
      )}
      {here < pairing.total && <Progress label="Reading the lines" done={here} of={pairing.total} />}
    </header>
  );
}
