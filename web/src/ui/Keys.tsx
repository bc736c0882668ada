import { Modal } from '@mantine/core';
import { t, type Word } from '../words/words';
import './Keys.css';

const keys: [string, Word][] = [
  ['↑ ↓, k j', 'keys.move'],
  ['Shift ↑ ↓', 'keys.range'],
  ['Space', 'keys.pick'],
  ['Ctrl A', 'keys.all'],
  ['i', 'keys.invert'],
  ['Enter', 'keys.accept'],
  ['1 2 3', 'keys.candidate'],
  ['b', 'keys.both'],
  ['s', 'keys.search'],
  ['a', 'keys.share'],
  ['x', 'keys.aside'],
  ['Shift Enter', 'keys.group'],
  ['c', 'keys.checked'],
  ['z', 'keys.undo'],
  ['Shift z', 'keys.redo'],
  ['n', 'keys.next'],
  ['o', 'keys.next_contested'],
  ['Alt ↑, Alt ↓', 'keys.order'],
  ['Alt Shift ↑ ↓', 'keys.ends'],
  ['Ctrl C', 'keys.copy'],
  ['p', 'keys.plan'],
  ['Ctrl Enter', 'keys.apply'],
  ['m', 'keys.compare'],
  ['Shift F10', 'act.menu'],
  ['v', 'keys.view'],
  ['w', 'keys.customer'],
  ['/, f', 'keys.filter'],
  ['Ctrl K', 'keys.find'],
  ['[ ], r g', 'keys.panes'],
  ['?', 'keys.help'],
];

export function Keys({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title={t('keys.title')}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <dl className="keys">
        {keys.map(([key, does]) => (
          <div key={key}>
            <dt>
              <kbd>{key}</kbd>
            </dt>
            <dd>{t(does)}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
