import { Button } from '@mantine/core';
import { lazy, Suspense, useState } from 'react';
import type { ShotsOf } from '../../api/shots';
import { withWords } from '../../words/words';

const PictureTable = lazy(() =>
  withWords('shots', import('./PictureTable')).then((m) => ({ default: m.PictureTable })),
);

interface Props {
  of: ShotsOf;
  title: string;
  name: string;
  quiet?: boolean;
  size?: string;
}

/** Opens what makes a picture table. */
export function ShotsButton({ of, title, name, quiet, size }: Props) {
  const [opened, setOpened] = useState(false);
  return (
    <>
      {quiet ? (
        <button type="button" className="linkish" onClick={() => setOpened(true)}>
          {name}
        </button>
      ) : (
        <Button size={size} onClick={() => setOpened(true)}>
          {name}
        </Button>
      )}
      {opened && (
        <Suspense>
          <PictureTable of={of} title={title} onClose={() => setOpened(false)} />
        </Suspense>
      )}
    </>
  );
}
