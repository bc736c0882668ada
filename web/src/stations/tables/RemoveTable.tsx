import { Button } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { useAsk } from '../../api/queries';
import { askTable, type Table } from '../../api/tables';
import { t } from '../../words/words';

/** Removes a table that people are done with; asked twice, as it can't be undone. */
export function RemoveTable({ table }: { table: Table }) {
  const [sure, setSure] = useState(false);
  const navigate = useNavigate();
  const remove = useAsk(askTable.remove, [['tables']]);
  return (
    <Button
      variant="subtle"
      className="quietbutton"
      loading={remove.isPending}
      onBlur={() => setSure(false)}
      onClick={() =>
        sure ? remove.mutate(table.id, { onSuccess: () => void navigate({ to: '/tables' }) }) : setSure(true)
      }
    >
      {t(sure ? 'tables.remove_sure' : 'tables.remove')}
    </Button>
  );
}
