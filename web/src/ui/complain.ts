import { notifications } from '@mantine/notifications';
import { t } from '../words/words';

/** Says what went wrong, where it can be read and dismissed. */
export function complain(error: unknown) {
  notifications.show({
    title: t('error.title'),
    message: error instanceof Error ? error.message : String(error),
    color: 'var(--plum)',
    autoClose: false,
    closeButtonProps: { 'aria-label': t('page.close') },
  });
}

/** Says what became of something. */
export function say(message: string) {
  notifications.show({ message, color: 'var(--teal)', closeButtonProps: { 'aria-label': t('page.close') } });
}
