import { Button, TextInput } from '@mantine/core';
import { lazy, type ReactNode, Suspense, useRef, useState } from 'react';
import { useAskOnce } from '../../api/queries';
import { DropArea } from '../../ui/DropArea';
import { type Dropped, readChosen, readDrop } from '../../ui/dropped';
import { t } from '../../words/words';
import { type Brought, fetchPictures, sendPictures } from './bringPictures';

const PicturePicker = lazy(() => import('./PicturePicker').then((m) => ({ default: m.PicturePicker })));

interface Props {
  /** What the delivery of fetched pictures is called. */
  title: string;
  onAdd: (shas: string[]) => void;
  /** What stands above, where pictures can be dropped too. */
  children?: ReactNode;
}

/** Adds pictures to an owner: from disk, from an address, or from those that are here. */
export function Add({ title, onAdd, children }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const [address, setAddress] = useState('');
  const [picking, setPicking] = useState(false);
  const [wrong, setWrong] = useState<string[]>([]);
  const bring = useAskOnce(
    (from: Dropped[] | string) => (typeof from === 'string' ? fetchPictures([from], title) : sendPictures(from)),
    [['deliveries'], ['arrived']],
  );
  const take = ({ shas, wrong }: Brought) => {
    setWrong(wrong);
    if (shas.length > 0) onAdd(shas);
  };
  const send = (files: Dropped[]) => files.length > 0 && bring.mutate(files, { onSuccess: take });
  return (
    <DropArea
      says={t('hand.drop_here', { owner: title })}
      off={bring.isPending}
      onDrop={(d) => void readDrop(d).then(send)}
    >
      {children}
      <h3>{t('hand.add')}</h3>
      <div className="row wrapping">
        <Button size="compact-sm" loading={bring.isPending} onClick={() => input.current?.click()}>
          {t('hand.from_disk')}
        </Button>
        <Button size="compact-sm" disabled={bring.isPending} onClick={() => setPicking(true)}>
          {t('hand.from_here')}
        </Button>
        <input
          ref={input}
          type="file"
          multiple
          accept="image/*"
          hidden
          data-testid="hand-files"
          onChange={(e) => {
            send(readChosen(e.currentTarget.files ?? new DataTransfer().files));
            e.currentTarget.value = '';
          }}
        />
      </div>
      <form
        className="row address"
        onSubmit={(e) => {
          e.preventDefault();
          bring.mutate(address.trim(), {
            onSuccess: (got) => {
              take(got);
              if (got.shas.length > 0) setAddress('');
            },
          });
        }}
      >
        <TextInput
          className="grow"
          type="url"
          aria-label={t('hand.address')}
          placeholder={t('hand.address')}
          value={address}
          onChange={(e) => setAddress(e.currentTarget.value)}
        />
        <Button type="submit" disabled={!address.trim()} loading={bring.isPending}>
          {t('hand.fetch')}
        </Button>
      </form>
      <div role="status">
        {bring.isPending && <p className="soft">{t('hand.coming')}</p>}
        {wrong.map((w) => (
          <p key={w} className="wrong wrap">
            {w}
          </p>
        ))}
      </div>
      <Suspense>
        {picking && (
          <PicturePicker
            title={t('hand.pick_for', { owner: title })}
            onClose={() => setPicking(false)}
            onPick={(shas) => {
              setPicking(false);
              onAdd(shas);
            }}
          />
        )}
      </Suspense>
    </DropArea>
  );
}
