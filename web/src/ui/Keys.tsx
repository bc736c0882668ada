import { Modal } from '@mantine/core';
import './Keys.css';

const keys: [string, string][] = [
  ['↑ ↓ or k j', 'move through the lines'],
  ['Space', 'select the line'],
  ['Enter', 'accept, or open'],
  ['1 2 3', 'take this candidate'],
  ['b', 'give a contested picture to both'],
  ['s', 'search another owner'],
  ['a', 'give the picture to another owner as well'],
  ['v', 'look by file or by owner'],
  ['x', 'set aside'],
  ['z', 'undo your last decision'],
  ['Shift z', 'do it again'],
  ['Alt ↑ Alt ↓', 'earlier or later among the owner’s pictures'],
  ['/', 'filter the lines'],
  ['Ctrl K', 'find a product from anywhere'],
  ['[ and ]', 'fold the left or right pane'],
  ['?', 'this list'],
];

export function Keys({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Modal opened={opened} onClose={onClose} title="Keys">
      <dl className="keys">
        {keys.map(([key, does]) => (
          <div key={key}>
            <dt>
              <kbd>{key}</kbd>
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
