import { Button, Modal } from '@mantine/core';
import { type ComponentType, lazy, Suspense, useRef, useState } from 'react';
import { Empty } from '../../ui/Empty';
import { FileName } from '../../ui/FileName';
import { Filter } from '../../ui/Filter';
import { FilterField } from '../../ui/FilterField';
import { bytes, count, when } from '../../ui/format';
import { Grade } from '../../ui/Grade';
import { Met } from '../../ui/Met';
import { Progress } from '../../ui/Progress';
import { Ring } from '../../ui/Ring';
import { Strip, Thumb } from '../../ui/Thumb';
import { t } from '../../words/words';
import { SmallBoard } from './SmallBoard';

const OwnerSearch = lazy(() => import('../../ui/OwnerSearch').then((m) => ({ default: m.OwnerSearch })));

const nothing = () => {};
const long = `${'corrie-spring-range-of-kites-'.repeat(5)}PK-DLT-140-AMB-front-view-in-the-studio_07.jpg`;
const turned = 'PK-DLT-140-AMB_1\u202egpj.exe';

function Field({ text }: { text: string }) {
  const [value, setValue] = useState<string | undefined>(text);
  const field = useRef<HTMLInputElement>(null);
  return <FilterField ref={field} label={t('pieces.filter')} value={value ?? ''} onChange={setValue} />;
}

function Search() {
  const [opened, setOpened] = useState(false);
  return (
    <>
      <Button onClick={() => setOpened(true)}>{t('pieces.open')}</Button>
      <Suspense>
        <OwnerSearch
          opened={opened}
          title={t('pieces.search')}
          onClose={() => setOpened(false)}
          onPick={() => setOpened(false)}
        />
      </Suspense>
    </>
  );
}

function Dialog() {
  const [opened, setOpened] = useState(false);
  return (
    <>
      <Button onClick={() => setOpened(true)}>{t('pieces.open')}</Button>
      <Modal
        opened={opened}
        onClose={() => setOpened(false)}
        title={t('pieces.dialog')}
        closeButtonProps={{ 'aria-label': t('page.close') }}
      >
        <p>{t('pieces.dialog_what')}</p>
        <Button className="go" onClick={() => setOpened(false)}>
          {t('page.close')}
        </Button>
      </Modal>
    </>
  );
}

/** A piece of the screens and its states; the names are those of texts. */
interface Piece {
  id:
    | 'board'
    | 'filter'
    | 'search'
    | 'dialog'
    | 'number'
    | 'name'
    | 'grade'
    | 'button'
    | 'picture'
    | 'empty'
    | 'progress';
  states: { name: State; shown: ComponentType }[];
}

type State =
  | 'lines'
  | 'one'
  | 'off'
  | 'on'
  | 'quiet'
  | 'field'
  | 'filled'
  | 'closed'
  | 'count'
  | 'size'
  | 'date'
  | 'short'
  | 'long'
  | 'turned'
  | 'met'
  | 'small'
  | 'word'
  | 'checked'
  | 'plain'
  | 'main'
  | 'loading'
  | 'disabled'
  | 'none'
  | 'many'
  | 'next'
  | 'start'
  | 'half'
  | 'unknown'
  | 'ring';

const grades = ['sure', 'likely', 'contested', 'unclaimed', 'ignored'];
const perGrade = (state: { word?: boolean; checked?: boolean }) => () => (
  <p className="row wraps">
    {grades.map((g) => (
      <Grade key={g} grade={g} {...state} />
    ))}
  </p>
);

export const pieces: Piece[] = [
  {
    id: 'board',
    states: [
      { name: 'lines', shown: () => <SmallBoard lines={100_000} /> },
      { name: 'one', shown: () => <SmallBoard lines={1} /> },
    ],
  },
  {
    id: 'filter',
    states: [
      {
        name: 'off',
        shown: () => <Filter name={t('pieces.filter_name')} count={12345} on={false} onClick={nothing} />,
      },
      { name: 'on', shown: () => <Filter name={t('pieces.filter_name')} count={0} on onClick={nothing} /> },
      { name: 'quiet', shown: () => <Filter quiet name={long} count={7} on={false} onClick={nothing} /> },
      { name: 'field', shown: () => <Field text="" /> },
      { name: 'filled', shown: () => <Field text="PK-DLT" /> },
    ],
  },
  { id: 'search', states: [{ name: 'closed', shown: Search }] },
  { id: 'dialog', states: [{ name: 'closed', shown: Dialog }] },
  {
    id: 'number',
    states: [
      { name: 'count', shown: () => <p className="figures">{[0, 999, 1000, 1234567].map(count).join(' · ')}</p> },
      { name: 'size', shown: () => <p className="figures">{[0, 999, 1500, 48_200_000].map(bytes).join(' · ')}</p> },
      { name: 'date', shown: () => <p className="figures">{when('2026-03-09T08:05:00Z')}</p> },
    ],
  },
  {
    id: 'name',
    states: [
      { name: 'short', shown: () => <FileName name="PK-DLT-140-AMB_2.jpg" spans={[[0, 14]]} /> },
      { name: 'long', shown: () => <FileName name={long} spans={[[145, 159]]} /> },
      { name: 'turned', shown: () => <FileName name={turned} spans={[[0, 14]]} /> },
      {
        name: 'met',
        shown: () => (
          <Met
            text="pk_dlt_140_amb.jpg"
            spans={[
              [0, 6],
              [7, 14],
            ]}
          />
        ),
      },
    ],
  },
  {
    id: 'grade',
    states: [
      { name: 'small', shown: perGrade({}) },
      { name: 'word', shown: perGrade({ word: true }) },
      { name: 'checked', shown: perGrade({ word: true, checked: true }) },
    ],
  },
  {
    id: 'button',
    states: [
      { name: 'plain', shown: () => <Button>{t('page.keep')}</Button> },
      { name: 'main', shown: () => <Button className="go">{t('page.keep')}</Button> },
      { name: 'loading', shown: () => <Button loading>{t('page.keep')}</Button> },
      { name: 'disabled', shown: () => <Button disabled>{t('page.keep')}</Button> },
    ],
  },
  {
    id: 'picture',
    states: [
      { name: 'none', shown: () => <Thumb size={48} /> },
      { name: 'many', shown: () => <Strip shas={[]} /> },
    ],
  },
  {
    id: 'empty',
    states: [
      { name: 'plain', shown: () => <Empty title={t('pieces.empty_title')} /> },
      { name: 'next', shown: () => <Empty title={t('pieces.empty_title')}>{t('pieces.empty_what')}</Empty> },
    ],
  },
  {
    id: 'progress',
    states: [
      { name: 'start', shown: () => <Progress label={t('pieces.work')} done={0} of={40000} /> },
      { name: 'half', shown: () => <Progress label={t('pieces.work')} done={21000} of={40000} /> },
      { name: 'unknown', shown: () => <Progress label={t('pieces.work')} done={21000} of={0} /> },
      { name: 'ring', shown: () => <Ring percent={35} /> },
    ],
  },
];
