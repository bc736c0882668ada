import { Button, FileInput, Modal, NativeSelect, TextInput } from '@mantine/core';
import { useState } from 'react';
import { gallery } from '../../api/gallery';
import { useAsk } from '../../api/queries';
import { makeShots, type ShotsOf, type ShotsSpec } from '../../api/shots';
import { save } from '../../ui/save';
import { t } from '../../words/words';
import { ColumnList } from './ColumnList';
import { sizeName, sizes, usualColumns } from './columns';
import { Presets } from './Presets';
import './PictureTable.css';

interface Props {
  of: ShotsOf;
  /** What the pictures are of. */
  title: string;
  onClose: () => void;
}

const formats = ['xlsx', 'csv', 'ods'] as const;

/** Makes a table of pictures with chosen columns, as a new file or written into a workbook. */
export function PictureTable({ of, title, onClose }: Props) {
  const [columns, setColumns] = useState(usualColumns);
  const [side, setSide] = useState(96);
  const [format, setFormat] = useState<ShotsSpec['format']>('xlsx');
  const [book, setBook] = useState<File | null>(null);
  const [sheet, setSheet] = useState('');
  const [cell, setCell] = useState('');
  const { pictures, ...rest } = of;
  const make = useAsk(
    async (spec: ShotsSpec) =>
      makeShots(pictures ? { ...spec, ticket: (await gallery.zip(pictures)).ticket } : spec, book),
    [],
  );
  const on = columns.filter((c) => c.on);
  const previews = on.some((c) => c.column === 'preview');
  const submit = () =>
    make.mutate(
      {
        ...rest,
        columns: on.map(({ column, header }) => ({ column, header })),
        side,
        format,
        sheet,
        cell: cell.trim(),
      },
      {
        onSuccess: (bytes) => {
          save(bytes, book ? book.name : `${title}.${format}`);
          onClose();
        },
      },
    );
  return (
    <Modal
      opened
      onClose={onClose}
      size="lg"
      title={t('shots.title', { of: title })}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <form
        className="shots"
        onSubmit={(e) => {
          e.preventDefault();
          submit();
        }}
      >
        <Presets
          {...{ columns, side }}
          onUse={(columns, side) => {
            setColumns(columns);
            setSide(side);
          }}
        />
        <ColumnList columns={columns} onChange={setColumns} />
        <div className="row">
          <NativeSelect
            label={t('shots.format')}
            value={book ? 'xlsx' : format}
            disabled={book !== null}
            onChange={(e) => setFormat(e.currentTarget.value as ShotsSpec['format'])}
            data={formats.map((value) => ({ value, label: value.toUpperCase() }))}
          />
          <NativeSelect
            label={t('shots.side')}
            value={String(side)}
            disabled={!previews}
            onChange={(e) => setSide(Number(e.currentTarget.value))}
            data={sizes.map((n) => ({ value: String(n), label: sizeName(n) }))}
          />
        </div>
        {previews && format !== 'xlsx' && !book && <p className="notice">{t('shots.no_preview')}</p>}
        <FileInput
          label={t('shots.into')}
          placeholder={t('shots.into_new')}
          accept=".xlsx"
          clearable
          value={book}
          onChange={setBook}
        />
        {book && (
          <div className="row">
            <TextInput label={t('shots.sheet')} value={sheet} onChange={(e) => setSheet(e.currentTarget.value)} />
            <TextInput
              label={t('shots.cell')}
              placeholder="B5"
              value={cell}
              onChange={(e) => setCell(e.currentTarget.value)}
            />
          </div>
        )}
        <div className="row answers">
          <span className="grow">{make.isPending && <output>{t('shots.making')}</output>}</span>
          <Button onClick={onClose}>{t('page.keep')}</Button>
          <Button type="submit" className="go" loading={make.isPending} disabled={on.length === 0}>
            {t('shots.make')}
          </Button>
        </div>
      </form>
    </Modal>
  );
}
