import { Button } from '@mantine/core';
import { useRef } from 'react';
import { gallery } from '../../api/gallery';
import { complain } from '../../ui/complain';
import { say } from '../../words/messages';
import { t } from '../../words/words';

/** Finds pictures by one that is dropped or chosen: the same, or like it. */
export function useAlike(onFound: (likeness: string, same?: string) => void) {
  const input = useRef<HTMLInputElement>(null);
  const look = async (file: File | undefined) => {
    if (!file) return;
    try {
      const seen = await gallery.look(file);
      if (seen.says) throw new Error(say(seen.says));
      onFound(seen.likeness ?? '', seen.same);
    } catch (error) {
      complain(error);
    }
  };
  return {
    drop: (transfer: DataTransfer) => void look(transfer.files[0]),
    button: (
      <>
        <input
          ref={input}
          type="file"
          accept="image/*"
          hidden
          onChange={(e) => {
            void look(e.currentTarget.files?.[0]);
            e.currentTarget.value = '';
          }}
        />
        <Button onClick={() => input.current?.click()}>{t('pictures.by_picture')}</Button>
      </>
    ),
  };
}
