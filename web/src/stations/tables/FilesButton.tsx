import { Button, type ButtonProps } from '@mantine/core';
import { useRef } from 'react';
import type { Dropped } from '../../ui/dropped';
import { chosen } from './bring';

interface Props extends Pick<ButtonProps, 'size' | 'loading'> {
  name: string;
  /** What tests find its field by. */
  testid: string;
  onFiles: (files: Dropped[]) => void;
}

/** A button that asks for files. */
export function FilesButton({ name, testid, onFiles, ...button }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button {...button} onClick={() => input.current?.click()}>
        {name}
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        data-testid={testid}
        onChange={(e) => onFiles(chosen(e.currentTarget))}
      />
    </>
  );
}
