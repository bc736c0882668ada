import { Button } from '@mantine/core';
import { useState } from 'react';
import { useAskOnce } from '../../api/queries';
import { askSource, type Source, sourceTouched } from '../../api/sources';
import { copy } from '../../ui/copy';
import { t } from '../../words/words';

/** How others copy into a drop folder: its address, its name and its password, which is told once. */
export function DropDoor({ source, mayEdit }: { source: Source; mayEdit: boolean }) {
  const [password, setPassword] = useState('');
  const open = useAskOnce(askSource.openDoor, sourceTouched);
  const close = useAskOnce(askSource.closeDoor, sourceTouched);
  const address = `${window.location.origin}/drop/${source.settings.login}/`;
  return (
    <div className="door-facts">
      <p>
        {t('sources.drop_at')} <span className="mono wrap">{address}</span>{' '}
        <button type="button" className="linkish" onClick={() => void copy(address)}>
          {t('sources.copy')}
        </button>
      </p>
      <p className="soft">{t('sources.drop_what', { n: source.settings.quiet || 30 })}</p>
      {password ? (
        <p className="notice">
          {t('sources.password_is', { login: source.settings.login ?? '' })} <span className="mono">{password}</span>{' '}
          <button type="button" className="linkish" onClick={() => void copy(password)}>
            {t('sources.copy')}
          </button>
        </p>
      ) : (
        !source.secret && <p className="notice">{t('sources.no_password')}</p>
      )}
      {mayEdit && (
        <div className="row">
          <Button
            size="compact-sm"
            loading={open.isPending}
            onClick={() => open.mutate(source.id, { onSuccess: (d) => setPassword(d.password) })}
          >
            {t(source.secret ? 'sources.new_password' : 'sources.make_password')}
          </Button>
          {source.secret && (
            <Button
              size="compact-sm"
              variant="subtle"
              className="quietbutton"
              loading={close.isPending}
              onClick={() => close.mutate(source.id, { onSuccess: () => setPassword('') })}
            >
              {t('sources.close_door')}
            </Button>
          )}
        </div>
      )}
    </div>
  );
}
