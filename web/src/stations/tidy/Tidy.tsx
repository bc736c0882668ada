import { useNavigate, useSearch } from '@tanstack/react-router';
import { useState } from 'react';
import { Bench } from '../../ui/Bench';
import { useTitle } from '../../ui/useTitle';
import { PictureGlass } from '../pictures/PictureGlass';
import { Zoom } from '../pictures/Zoom';
import { Barcodes } from './Barcodes';
import { Bin } from './Bin';
import { Broken } from './Broken';
import { Coverage } from './Coverage';
import { Gaps } from './Gaps';
import { Orphans } from './Orphans';
import { OwnerGlass } from './OwnerGlass';
import { Rules } from './Rules';
import { SharedPictures } from './SharedPictures';
import { Storage } from './Storage';
import { TidyRail } from './TidyRail';
import { Twice } from './Twice';
import { Unfit } from './Unfit';
import '../pictures/Pictures.css';
import './Tidy.css';

/** What is in focus: a picture, or an owner. */
export interface Focus {
  sha?: string;
  owner?: number;
}

/** The station that clears up: what was found in the rail, the finds on the board. */
export function Tidy() {
  const search = useSearch({ strict: false });
  const navigate = useNavigate();
  const [focus, setFocus] = useState<Focus>({});
  const [zoom, setZoom] = useState<string>();
  useTitle('tidy');
  const show = search.show ?? 'coverage';
  const go = (next: string, within?: number) => {
    setFocus({});
    void navigate({ to: '/tidy', search: { show: next, in: within } });
  };
  const [kind = '', name = ''] = show.split('.');
  return (
    <Bench
      rail={<TidyRail show={show} go={go} />}
      board={
        <>
          {kind === 'coverage' && <Coverage go={go} />}
          {kind === 'orphans' && <Orphans only={name === 'proposed'} onFocus={setFocus} />}
          {kind === 'twice' && <Twice onFocus={setFocus} />}
          {kind === 'shared' && <SharedPictures onFocus={setFocus} />}
          {kind === 'unfit' && <Unfit key={name} faults={name} onFocus={setFocus} />}
          {kind === 'gap' && <Gaps key={name} gaps={name} within={search.in} onFocus={setFocus} go={go} />}
          {kind === 'barcodes' && <Barcodes onFocus={setFocus} />}
          {kind === 'broken' && <Broken onFocus={setFocus} />}
          {kind === 'bin' && <Bin onFocus={setFocus} />}
          {kind === 'storage' && <Storage />}
          {kind === 'rules' && <Rules />}
          {zoom && <Zoom sha={zoom} onClose={() => setZoom(undefined)} />}
        </>
      }
      glass={
        focus.sha ? (
          <PictureGlass
            sha={focus.sha}
            onLarge={() => setZoom(focus.sha)}
            onLike={(like) => void navigate({ to: '/pictures', search: { side: like } })}
          />
        ) : (
          focus.owner && <OwnerGlass key={focus.owner} owner={focus.owner} />
        )
      }
    />
  );
}
