import { Button } from '@mantine/core';
import { lazy, Suspense, useState } from 'react';
import type { ShotsOf } from '../../api/shots';
import { withWords } from '../../words/words';

const PictureTable = lazy(() =>
  withWords('shots', import('./PictureTable')).then((m) => ({ default: m.PictureTable })),
);

/** Opens what makes a picture table. */
export function ShotsButton({ of, title, name }: { of: ShotsOf; title: string; name: string }) {
  const [opened, setOpened] = useState(false);
  return (
    <>
      <Button onClick={() => setOpened(true)}>{name}</Button>
      {opened && (
        <Suspense>
          <PictureTable of={of} title={title} onClose={() => setOpened(false)} />
        </Suspense>
      )}
    </>
  );
}
