import { Button, Modal } from '@mantine/core';
import { useEffect, useRef, useState } from 'react';
import { pictureURL } from '../../api/client';
import { t } from '../../words/words';

const STEPS = [0, 1, 2, 4, 8] as const;

/** A picture as it came, as large as the page or pixel by pixel. + and - change how large; it is moved by dragging or the arrows. */
export function Zoom({ sha, onClose }: { sha: string; onClose: () => void }) {
  const [step, setStep] = useState(0);
  const frame = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<[number, number]>();
  const to = (n: number) => setStep(Math.max(0, Math.min(STEPS.length - 1, n)));
  const times = STEPS[step] ?? 0;
  useEffect(() => {
    const box = frame.current;
    if (!box || !times) return;
    box.scrollTo((box.scrollWidth - box.clientWidth) / 2, (box.scrollHeight - box.clientHeight) / 2);
  }, [times]);
  return (
    <Modal
      opened
      onClose={onClose}
      fullScreen
      title={size ? t('pictures.zoom', { w: size[0], h: size[1] }) : t('pictures.large')}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <div className="row zoombar">
        {STEPS.map((s, n) => (
          <Button key={s} size="compact-sm" aria-pressed={n === step} onClick={() => to(n)}>
            {s === 0 ? t('pictures.fit') : `${s * 100} %`}
          </Button>
        ))}
      </div>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: what scrolls is reached by the keyboard */}
      <div
        ref={frame}
        className="zoomframe"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard
        tabIndex={0}
        data-autofocus
        onKeyDown={(e) => {
          if (e.key === '+' || e.key === '=') to(step + 1);
          else if (e.key === '-') to(step - 1);
        }}
        onPointerMove={(e) => {
          if (e.buttons === 1) frame.current?.scrollBy(-e.movementX, -e.movementY);
        }}
      >
        <img
          src={pictureURL(sha, 'original')}
          alt={t('pictures.large')}
          draggable={false}
          className={times > 1 ? 'pixels' : undefined}
          style={
            times && size
              ? { width: size[0] * times, height: size[1] * times, maxWidth: 'none', maxHeight: 'none' }
              : undefined
          }
          onLoad={(e) => setSize([e.currentTarget.naturalWidth, e.currentTarget.naturalHeight])}
        />
      </div>
    </Modal>
  );
}
