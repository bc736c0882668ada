import { useEffect } from 'react';
import { t } from '../words/words';
import { complain } from './complain';

/** A file dropped where nothing takes it would open in place of the page: it is refused with a word instead. */
export function useDropGuard() {
  useEffect(() => {
    const over = (event: DragEvent) => {
      if (event.defaultPrevented) return;
      event.preventDefault();
      if (event.dataTransfer) event.dataTransfer.dropEffect = 'none';
    };
    const drop = (event: DragEvent) => {
      if (event.defaultPrevented) return;
      event.preventDefault();
      if (event.dataTransfer?.types.includes('Files')) complain(t('page.drop_refused'));
    };
    window.addEventListener('dragover', over);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('drop', drop);
    };
  }, []);
}
