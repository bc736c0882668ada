import { Button } from '@mantine/core';
import { useAskOnce } from '../../api/queries';
import { askSource, type Source, sourceTouched } from '../../api/sources';
import { say } from '../../words/messages';
import { t } from '../../words/words';

/** Looks at a drive: how much there is, and what is in the way. */
export function Try({ source }: { source: Source }) {
  const look = useAskOnce(askSource.look, sourceTouched);
  const trust = useAskOnce(
    (certificate: string) => askSource.set(source.id, { ...source, settings: { ...source.settings, certificate } }),
    sourceTouched,
  );
  const found = look.data;
  return (
    <div className="row try">
      <Button size="compact-sm" loading={look.isPending} onClick={() => look.mutate(source.id)}>
        {t('sources.try')}
      </Button>
      {source.settings.hostKey && (
        <span className="soft clip" title={source.settings.hostKey}>
          {t('sources.key_is', { key: source.settings.hostKey })}
        </span>
      )}
      <span role="status" className="grow">
        {found &&
          found.missing.length === 0 &&
          t(found.whole ? 'sources.tried' : 'sources.tried_more', {
            count: found.files,
            pictures: found.pictures,
            size: found.bytes,
          })}
        {found?.missing.map((m) => (
          <span key={JSON.stringify(m)} className="wrong">
            {say(m)}{' '}
          </span>
        ))}
        {look.error && <span className="wrong">{look.error.message}</span>}
        {found?.certificate && (
          <>
            <span className="mono wrap">{found.certificate}</span>{' '}
            {source.mine && (
              <Button
                size="compact-sm"
                loading={trust.isPending}
                onClick={() => trust.mutate(found.certificate ?? '', { onSuccess: () => look.mutate(source.id) })}
              >
                {t('sources.trust')}
              </Button>
            )}
          </>
        )}
      </span>
    </div>
  );
}
