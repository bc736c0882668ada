import { useNavigate } from '@tanstack/react-router';
import { useAsk } from '../../api/queries';
import type { Dropped } from '../../ui/dropped';
import { bringTables } from './bring';

/** How tables are sent, with the pictures beside them; then the first of them is shown. */
export function useBring() {
  const navigate = useNavigate();
  const bring = useAsk(bringTables, [['tables']]);
  return {
    pending: bring.isPending,
    bring: (files: Dropped[]) =>
      bring.mutate(files, {
        onSuccess: (id) => {
          if (id) void navigate({ to: '/tables/$table', params: { table: String(id) } });
        },
      }),
  };
}
