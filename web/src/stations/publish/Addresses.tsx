import { Button, Checkbox, Modal, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { askChannel, type Channel, channelTouched, houseQuery } from '../../api/channels';
import type { Schemas } from '../../api/client';
import { useAskOnce } from '../../api/queries';
import { useMayAdmin } from '../../ui/mayAdmin';
import { t } from '../../words/words';

/** Public addresses of a channel's files: what they are, whether an admin allows them, and how they are taken back. */
export function Addresses({ channel, onClose }: { channel: Channel; onClose: () => void }) {
  const house = useQuery(houseQuery).data;
  const admin = useMayAdmin();
  const open = useAskOnce(() => askChannel.openAddresses(channel.id), channelTouched);
  const shut = useAskOnce(() => askChannel.closeAddresses(channel.id), channelTouched);
  return (
    <Modal
      opened
      onClose={onClose}
      title={t('publish.addresses_title')}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <p>{t('publish.addresses_what')}</p>
      {house && admin && <House key={JSON.stringify(house)} house={house} />}
      {house && !house.addresses && !admin && <p className="notice">{t('publish.addresses_off')}</p>}
      <p>{t(channel.addresses ? 'publish.addresses_on' : 'publish.addresses_none')}</p>
      <div className="row answers">
        <span className="grow" />
        {channel.addresses && (
          <Button loading={shut.isPending} onClick={() => shut.mutate(undefined)}>
            {t('publish.addresses_close')}
          </Button>
        )}
        {house?.addresses && admin && (
          <Button className="go" loading={open.isPending} onClick={() => open.mutate(undefined)}>
            {t(channel.addresses ? 'publish.addresses_renew' : 'publish.addresses_open')}
          </Button>
        )}
      </div>
    </Modal>
  );
}

/** What an admin says of this house: where it is reached, and whether addresses may be. */
function House({ house }: { house: Schemas['House'] }) {
  const [site, setSite] = useState(house.site);
  const [addresses, setAddresses] = useState(house.addresses);
  const keep = useAskOnce(() => askChannel.setHouse({ site, addresses }), [['house']]);
  return (
    <form
      className="formstack"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(undefined);
      }}
    >
      <TextInput
        label={t('publish.site')}
        value={site}
        maxLength={200}
        onChange={(e) => setSite(e.currentTarget.value)}
      />
      <Checkbox
        label={t('publish.addresses_allow')}
        checked={addresses}
        onChange={(e) => setAddresses(e.currentTarget.checked)}
      />
      <Button type="submit" loading={keep.isPending} disabled={site === house.site && addresses === house.addresses}>
        {t('publish.save')}
      </Button>
    </form>
  );
}
