import { useAsk } from '../../api/queries';
import { askTable, type Described } from '../../api/tables';
import { say } from '../../ui/complain';
import { t } from '../../words/words';

/** What can be done to a table; it is checked again by itself, and shown when that is done. */
export function useEdits(id: number) {
  const touched = [['table', id], ['tables']];
  const edit = useAsk((cells: { row: number; column: number; text: string }[]) => askTable.edit(id, cells), touched);
  const leave = useAsk((of: { rows: number[]; out: boolean }) => askTable.leaveOut(id, of.rows, of.out), touched);
  const repair = useAsk((what: { kind?: string; problems?: number[] }) => askTable.repair(id, what), touched);
  const step = useAsk((again: boolean) => askTable.undo(id, again), touched);
  const describe = useAsk((d: Described) => askTable.describe(id, d), touched);
  return {
    edit: (row: number, column: number, text: string) => edit.mutate([{ row, column, text }]),
    editAll: (cells: { row: number; column: number; text: string }[]) => cells.length > 0 && edit.mutate(cells),
    leaveOut: (rows: number[], out: boolean) => leave.mutate({ rows, out }),
    repair: (what: { kind?: string; problems?: number[] }) =>
      repair.mutate(what, { onSuccess: ({ cells }) => say(t('tables.repaired', { count: cells })) }),
    undo: (again: boolean) =>
      step.mutate(again, {
        onSuccess: ({ cells, left }) =>
          say(
            t(again ? 'tables.redone' : 'tables.undone', { count: cells }) +
              (left ? ` ${t('tables.left', { count: left })}` : ''),
          ),
      }),
    describe: (d: Described) => describe.mutate(d),
    pending: edit.isPending || repair.isPending || describe.isPending,
  };
}

export type Edits = ReturnType<typeof useEdits>;
