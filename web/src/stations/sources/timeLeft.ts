import type { Visit } from '../../api/sources';
import { t } from '../../words/words';

/** How long a visit takes still, by how fast it was so far; nothing where that says little. */
export function timeLeft(v: Visit, now = Date.now()): string {
  if (!v.beganAt || !v.listed || v.fetched < 5) return '';
  const seconds = (now - Date.parse(v.beganAt)) / 1000;
  const left = (seconds / v.fetched) * (v.wanted - v.fetched);
  if (!(left > 0)) return '';
  return left < 90
    ? t('sources.left_seconds', { n: Math.ceil(left) })
    : t('sources.left_minutes', { n: Math.ceil(left / 60) });
}
