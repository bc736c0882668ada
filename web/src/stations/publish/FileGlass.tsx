import { Look } from '../../ui/Look';
import { t } from '../../words/words';
import type { FileFocus } from './Publish';

/** A file of a channel: the picture it is made of, and what is known of it. */
export function FileGlass({ file }: { file: FileFocus }) {
  if (!file.path) return <p className="soft">{t('publish.move')}</p>;
  return (
    <>
      <h3 className="mono path">{file.path}</h3>
      {file.sha ? <Look sha={file.sha} alt={file.path} /> : <p className="soft">{t('publish.no_picture')}</p>}
      {file.says?.map((line) => (
        <p key={line}>{line}</p>
      ))}
    </>
  );
}
