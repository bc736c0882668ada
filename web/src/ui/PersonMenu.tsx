import { type MantineColorScheme, Menu, UnstyledButton, useMantineColorScheme } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { client, type Session } from '../api/client';
import { t } from '../words/words';

interface Props {
  person: Session;
  onKeys: () => void;
}

/** What stands under the user's name. */
export function PersonMenu({ person, onKeys }: Props) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  const signOut = async () => {
    await client.DELETE('/api/session');
    queries.clear();
    queries.setQueryData(['session'], null);
  };
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <UnstyledButton className="person">{person.name}</UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>{t('me.role', { role: t(`role.${person.role}`) })}</Menu.Label>
        <Menu.Item onClick={() => void navigate({ to: '/settings' })}>{t('me.settings')}</Menu.Item>
        {person.role === 'admin' && (
          <Menu.Item onClick={() => void navigate({ to: '/people' })}>{t('me.people')}</Menu.Item>
        )}
        <Menu.Divider />
        <Menu.Label>{t('me.theme')}</Menu.Label>
        <Menu.RadioGroup value={colorScheme} onChange={(scheme) => setColorScheme(scheme as MantineColorScheme)}>
          {(['light', 'dark', 'auto'] as const).map((scheme) => (
            <Menu.RadioItem key={scheme} value={scheme}>
              {t(`me.${scheme}`)}
            </Menu.RadioItem>
          ))}
        </Menu.RadioGroup>
        <Menu.Divider />
        <Menu.Item onClick={onKeys} rightSection={<kbd>?</kbd>}>
          {t('me.keys')}
        </Menu.Item>
        <Menu.Item component="a" href="/handbook">
          {t('me.handbook')}
        </Menu.Item>
        <Menu.Item component="a" href="/api/docs">
          {t('me.api')}
        </Menu.Item>
        <Menu.Item component="a" href="/notices">
          {t('me.notices')}
        </Menu.Item>
        <Menu.Divider />
        <Menu.Item onClick={() => void signOut()}>{t('me.out')}</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
