import { useNavigate } from '@tanstack/react-router';
import { complain } from '../../ui/complain';
import type { Dropped } from '../../ui/dropped';
import { send } from '../../ui/sending';

/** Sends files as a delivery of a source, and shows it. */
export function useBring(source: number) {
  const navigate = useNavigate();
  return (files: Dropped[]) => {
    if (files.length === 0) return;
    send(files, undefined, { source })
      .then((id) => navigate({ to: '/gather', search: { in: id } }))
      .catch(complain);
  };
}
