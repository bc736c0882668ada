import { useQuery } from '@tanstack/react-query';
import { sessionQuery } from '../api/queries';

/** Whether who is signed in may do what admins do. */
export function useMayAdmin() {
  const session = useQuery(sessionQuery);
  return session.data?.role === 'admin';
}
