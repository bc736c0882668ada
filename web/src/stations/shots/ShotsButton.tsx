import { Button } from '@mantine/core';
import { lazy, Suspense, useState } from 'react';
import type { ShotsOf } from '../../api/shots';
import { withWords } from '../../words/words';

const PictureTable = lazy(() =>
  withWords('shots', import('./PictureTable')).then((m) => ({ default: m.PictureTable })),
);

/** Opens what makes a picture table. */
export function ShotsButton({ of, title, name, quiet }: { of: ShotsOf; title: string; name: string; quiet?: boolean }) {
  const [opened, setOpened] = useState(false);
  return (
    <>
      {quiet ? (
        <button type="button" className="linkish" onClick={() => setOpened(true)}>
          {name}
        </button>
      ) : (
        <Button onClick={() => setOpened(true)}>{name}</Button>
      )}
      {opened && (
        <Suspense>
          <PictureTable of={of} title={title} onClose={() => setOpened(false)} />
        </Suspense>
      )}
    </>
  );
}
