import { Button } from '@mantine/core';
import { useRef } from 'react';
import { chosen } from './bring';
import { useBring } from './useBring';

/** Sends a table, and the pictures and archives that are chosen with it. */
export function SendTable({ name }: { name: string }) {
  const input = useRef<HTMLInputElement>(null);
  const { bring, pending } = useBring();
  return (
    <>
      <Button loading={pending} onClick={() => input.current?.click()}>
        {name}
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        data-testid="sheet"
        onChange={(e) => bring(chosen(e.currentTarget))}
      />
    </>
  );
}
