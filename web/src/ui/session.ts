import { useQuery } from '@tanstack/react-query';
import { sessionQuery } from '../api/queries';

/** Whether who is signed in may change things. */
export function useMayEdit() {
  const session = useQuery(sessionQuery);
  return session.data?.role !== 'viewer';
}
