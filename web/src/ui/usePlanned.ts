import { useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { complain } from './complain';

/** Makes a plan and shows it; what hinders it is said. */
export function usePlanned() {
  const navigate = useNavigate();
  const [busy, setBusy] = useState(false);
  const plan = async (make: () => Promise<{ id?: number; plan?: number }>) => {
    setBusy(true);
    try {
      const made = await make();
      void navigate({ to: '/plan/$plan', params: { plan: String(made.plan ?? made.id) } });
    } catch (error) {
      complain(error);
    }
    setBusy(false);
  };
  return { busy, plan };
}
