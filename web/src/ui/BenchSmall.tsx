import { Button, Drawer } from '@mantine/core';
import { useState } from 'react';
import { t } from '../words/words';
import type { BenchParts } from './Bench';

/** The parts of a station on a small page: the board, and the others as sheets over it. */
export function BenchSmall({ rail, board, glass }: BenchParts) {
  const [open, setOpen] = useState<'left' | 'right'>();
  const close = { 'aria-label': t('page.close') };
  return (
    <>
      <div className="sheets">
        <Button size="compact-sm" onClick={() => setOpen('left')}>
          {t('page.left')}
        </Button>
        {glass && (
          <Button size="compact-sm" onClick={() => setOpen('right')}>
            {t('page.right')}
          </Button>
        )}
      </div>
      <section className="board" aria-label={t('page.board')}>
        {board}
      </section>
      <Drawer
        opened={open === 'left'}
        onClose={() => setOpen(undefined)}
        title={t('page.left')}
        size="320px"
        closeButtonProps={close}
      >
        <div className="rail">{rail}</div>
      </Drawer>
      <Drawer
        opened={open === 'right'}
        onClose={() => setOpen(undefined)}
        title={t('page.right')}
        position="right"
        size="420px"
        closeButtonProps={close}
      >
        <div className="glass">{glass}</div>
      </Drawer>
    </>
  );
}
