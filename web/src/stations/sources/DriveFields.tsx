import { Button, Checkbox, PasswordInput, Select, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useAsk } from '../../api/queries';
import { askSource, hostsQuery, type NewSource, type Protocol, protocolsQuery } from '../../api/sources';
import { useMayAdmin } from '../../ui/mayAdmin';
import { named, t } from '../../words/words';

interface Props {
  of: NewSource;
  set: (part: Partial<NewSource>) => void;
  /** Whether secrets are kept already: they stay where none is typed. */
  kept: boolean;
}

/** The fields of a drive's protocol, as its backend says that it needs them. */
export function DriveFields({ of, set, kept }: Props) {
  const protocols = useQuery(protocolsQuery).data ?? [];
  const settings = of.settings ?? {};
  const protocol = protocols.find((p) => p.kind === settings.protocol);
  const value = (name: string, text: string) =>
    set({ settings: { ...settings, values: { ...settings.values, [name]: text } } });
  return (
    <>
      <Select
        label={t('sources.protocol')}
        data={protocols.map((p) => ({ value: p.kind, label: p.kind === 'local' ? t('sources.local') : p.name }))}
        value={settings.protocol ?? null}
        allowDeselect={false}
        onChange={(kind) => set({ settings: { protocol: kind ?? undefined }, secrets: undefined })}
      />
      {protocol?.cloud && <p className="notice">{t('sources.cloud')}</p>}
      <div className="fields">
        {protocol?.fields.map((f) => (
          <Field
            key={f.name}
            field={f}
            kept={kept}
            value={(f.secret ? of.secrets?.[f.name] : settings.values?.[f.name]) ?? ''}
            onChange={(text) => (f.secret ? set({ secrets: { ...of.secrets, [f.name]: text } }) : value(f.name, text))}
          />
        ))}
        <TextInput
          label={t('sources.folder')}
          description={t(
            settings.protocol === 's3'
              ? 'sources.folder_bucket'
              : settings.protocol === 'smb'
                ? 'sources.folder_share'
                : 'sources.folder_what',
          )}
          value={settings.folder ?? ''}
          required={settings.protocol === 'local' || settings.protocol === 's3' || settings.protocol === 'smb'}
          onChange={(e) => set({ settings: { ...settings, folder: e.currentTarget.value } })}
        />
        {settings.protocol === 'sftp' && (
          <TextInput
            label={t('sources.host_key')}
            description={t('sources.host_key_what')}
            classNames={{ input: 'mono' }}
            value={settings.hostKey ?? ''}
            onChange={(e) => set({ settings: { ...settings, hostKey: e.currentTarget.value } })}
          />
        )}
        {(settings.protocol === 'webdav' || settings.protocol === 'http' || settings.protocol === 's3') &&
          settings.certificate && (
            <TextInput
              label={t('sources.certificate')}
              classNames={{ input: 'mono' }}
              value={settings.certificate}
              onChange={(e) => set({ settings: { ...settings, certificate: e.currentTarget.value } })}
            />
          )}
      </div>
      <Allow of={of} />
    </>
  );
}

interface FieldProps {
  field: Protocol['fields'][number];
  kept: boolean;
  value: string;
  onChange: (text: string) => void;
}

function Field({ field, kept, value, onChange }: FieldProps) {
  const label = named(`drive.${field.name}`) || field.name;
  const help = field.help.length > 20 ? field.help : undefined; // a shorter one says what the label says
  const shared = { label, description: help, required: field.required && !(field.secret && kept) };
  if (field.secret)
    return (
      <PasswordInput
        {...shared}
        value={value}
        placeholder={kept ? t('sources.secret_kept') : undefined}
        autoComplete="new-password"
        visibilityToggleButtonProps={{ 'aria-label': t('sources.show_secret') }}
        onChange={(e) => onChange(e.currentTarget.value)}
      />
    );
  if (field.default === 'true' || field.default === 'false')
    return (
      <Checkbox
        label={label}
        description={help}
        checked={(value || field.default) === 'true'}
        onChange={(e) => onChange(String(e.currentTarget.checked))}
      />
    );
  if (field.choices && field.choices.length > 0)
    return (
      <Select
        {...shared}
        data={field.choices.filter(Boolean)}
        value={value || null}
        clearable
        onChange={(v) => onChange(v ?? '')}
      />
    );
  return (
    <TextInput
      {...shared}
      value={value}
      placeholder={field.default}
      onChange={(e) => onChange(e.currentTarget.value)}
    />
  );
}

/** Says where drives may be connected, and lets an admin allow the host that is typed. */
function Allow({ of }: { of: NewSource }) {
  const admin = useMayAdmin();
  const hosts = useQuery(hostsQuery).data ?? [];
  const allow = useAsk(
    ({ kind, host }: { kind: string; host: string }) => askSource.allow(kind, host),
    [['drive-hosts']],
  );
  const { protocol: kind = '', values = {} } = of.settings ?? {};
  if (kind === 'local') return <p className="soft">{t('sources.local_what')}</p>;
  const host = hostOf(values) ?? '*';
  const allowed = hosts.filter((h) => h.kind === kind).map((h) => h.host);
  if (allowed.includes('*') || allowed.some((a) => covers(a, host))) return null;
  return (
    <div className="row notice">
      <span className="grow">
        {allowed.length > 0 ? t('sources.allowed_at', { hosts: allowed.join(', ') }) : t('sources.none_allowed')}
      </span>
      {admin && (
        <Button size="compact-sm" onClick={() => allow.mutate({ kind, host })}>
          {host === '*' ? t('sources.allow_any') : t('sources.allow', { host })}
        </Button>
      )}
    </div>
  );
}

/** The host that is typed; nothing where there is none yet. */
function hostOf(values: Record<string, string>): string | undefined {
  const address = values.url ?? values.endpoint;
  if (address) {
    try {
      return new URL(address).hostname || undefined;
    } catch {
      return undefined;
    }
  }
  return values.host || undefined;
}

const covers = (allowed: string, host: string) =>
  allowed.startsWith('*.') ? host.endsWith(allowed.slice(1)) : allowed === host;
