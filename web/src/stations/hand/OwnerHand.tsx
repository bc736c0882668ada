import { Button, Textarea } from '@mantine/core';
import { useState } from 'react';
import { client, data } from '../../api/client';
import type { PicturedOwner } from '../../api/hand';
import { complain } from '../../ui/complain';
import { Look } from '../../ui/Look';
import { plainly } from '../../ui/Met';
import { OwnerSearch } from '../../ui/OwnerSearch';
import { Sorted } from '../../ui/Sorted';
import { named, t } from '../../words/words';
import { Add } from './Add';
import { change, picturesOf, setPictures, setText, useDraft } from './draft';

interface Props {
  owner: PicturedOwner;
  mayEdit: boolean;
  onFields: () => void;
}

/** One owner's pictures, worked on where they are seen. */
export function OwnerHand({ owner, mayEdit, onFields }: Props) {
  const draft = useDraft();
  const shas = picturesOf(owner, draft);
  const [chosen, setChosen] = useState<string>();
  const [moving, setMoving] = useState(false);
  const sha = chosen && shas.includes(chosen) ? chosen : shas[0];
  const at = sha ? shas.indexOf(sha) : -1;
  const of = owner.pictures.find((p) => p.sha === sha);
  const mine = draft[owner.id]?.texts.find((x) => x.sha === sha && x.field === 'alt');
  const put = (next: string[]) => setPictures(owner, next);
  const step = (by: number) => {
    if (!sha || at + by < 0 || at + by >= shas.length) return;
    const next = shas.filter((s) => s !== sha);
    next.splice(at + by, 0, sha);
    put(next);
  };
  const pictures = (
    <>
      <h2 className={owner.sku ? 'mono' : undefined}>{owner.sku || owner.label}</h2>
      <p className="soft">
        {owner.sku ? owner.label : owner.path} {owner.retired && <b>{t('hand.is_retired')}</b>}
      </p>
      {sha && <Look sha={sha} alt={mine?.text ?? of?.text ?? ''} />}
      {shas.length > 0 && (
        <Sorted
          disabled={!mayEdit}
          onOrder={(ids) => put(ids.map(String))}
          onPick={(id) => setChosen(String(id))}
          pictures={shas.map((s, i) => ({
            id: s,
            sha: s,
            place: i + 1,
            current: s === sha,
            fresh: !owner.pictures.some((p) => p.sha === s),
            label: t('hand.picture_n', {
              n: i + 1,
              name: plainly(owner.pictures.find((p) => p.sha === s)?.name ?? ''),
            }),
          }))}
        />
      )}
      {sha && mayEdit && (
        <div className="row wrapping">
          <Button size="compact-sm" onClick={() => step(-1)} disabled={at === 0}>
            {t('hand.forward')}
          </Button>
          <Button size="compact-sm" onClick={() => step(1)} disabled={at === shas.length - 1}>
            {t('hand.backward')}
          </Button>
          <Button size="compact-sm" onClick={() => put([sha, ...shas.filter((s) => s !== sha)])} disabled={at === 0}>
            {t('hand.make_main')}
          </Button>
          <Button size="compact-sm" onClick={() => setMoving(true)}>
            {t('hand.move_to')}
          </Button>
          <Button size="compact-sm" onClick={() => put(shas.filter((s) => s !== sha))}>
            {t('hand.take_off')}
          </Button>
        </div>
      )}
      {sha && (
        <Textarea
          key={sha}
          label={t('hand.alt')}
          description={
            mine ? undefined : of?.hand ? t('hand.by_hand') : of?.text ? t('hand.by_rule') : t('hand.no_text')
          }
          value={mine?.text ?? of?.text ?? ''}
          readOnly={!mayEdit}
          autosize
          minRows={2}
          maxLength={2000}
          onChange={(e) => setText(owner, sha, 'alt', 'en', e.currentTarget.value)}
        />
      )}
      {sha && of && (of.problems?.length ?? 0) > 0 && !mine && (
        <ul className="plain">
          {of.problems?.map((p) => (
            <li key={p} className="wrong">
              {named(`text_problem.${p}`)}
            </li>
          ))}
        </ul>
      )}
    </>
  );
  return (
    <div className="ownerhand">
      {mayEdit ? (
        <Add title={owner.sku || owner.label} onAdd={(more) => put([...picturesOf(owner, draft), ...more])}>
          {pictures}
        </Add>
      ) : (
        pictures
      )}
      {mayEdit && (
        <p>
          <button type="button" className="linkish" onClick={onFields}>
            {t('hand.edit_fields')}
          </button>
        </p>
      )}
      <OwnerSearch
        opened={moving}
        title={t('hand.move_title')}
        onClose={() => setMoving(false)}
        onPick={(to) => {
          setMoving(false);
          if (sha && to.id !== owner.id) void move(owner, shas, sha, to.id, to.sku || to.label).catch(complain);
        }}
      />
    </div>
  );
}

/** Takes a picture off one owner and puts it behind those of another. */
async function move(from: PicturedOwner, shas: string[], sha: string, to: number, label: string) {
  const { pictures } = await data(client.GET('/api/products/{id}', { params: { path: { id: to } } }));
  const stand = pictures.map((p) => p.sha);
  setPictures(
    from,
    shas.filter((s) => s !== sha),
  );
  change(to, label, (e) => ({ ...e, was: e.was ?? stand, now: [...(e.now ?? stand).filter((s) => s !== sha), sha] }));
}
