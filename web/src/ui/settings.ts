import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { client, data, type Session } from '../api/client';
import { sessionQuery } from '../api/queries';

/** What a person set for themselves; kept on the server, so that it is the same in every browser. */
export interface Settings {
  language?: 'en' | 'de';
  density?: 'comfortable' | 'dense';
  /** Whether keys without Ctrl or Alt do something. */
  keys?: boolean;
  /** Whether the trial board is folded. */
  trialFolded?: boolean;
  columns?: Record<string, ColumnSettings>;
}

/** Of one board: widths in pixels by column, and which columns are hidden. */
export interface ColumnSettings {
  widths?: Record<string, number | null>;
  hidden?: Record<string, boolean | null>;
}

const none: Settings = {};

export function useSettings(): [Settings, (patch: Settings) => void] {
  const queries = useQueryClient();
  const session = useQuery(sessionQuery).data;
  const send = useMutation({
    mutationFn: (patch: Settings) =>
      data(client.PATCH('/api/session/settings', { body: patch as Record<string, unknown> })),
    meta: { quiet: true }, // what is seen is set already; at worst it is not kept
  });
  const settings = (session?.settings ?? none) as Settings;
  const set = (patch: Settings) => {
    queries.setQueryData<Session | null>(sessionQuery.queryKey, (s) =>
      s ? { ...s, settings: merged(s.settings, patch) } : s,
    );
    send.mutate(patch);
  };
  return [settings, set];
}

/** A merge patch (RFC 7396): objects are merged, null removes. */
function merged(to: unknown, patch: unknown): unknown {
  if (typeof patch !== 'object' || patch === null || Array.isArray(patch)) return patch;
  const out: Record<string, unknown> = typeof to === 'object' && to !== null ? { ...to } : {};
  for (const [name, value] of Object.entries(patch)) {
    if (value === null) delete out[name];
    else out[name] = merged(out[name], value);
  }
  return out;
}
