import { t } from '../words/words';

type Note = Parameters<typeof import('@mantine/notifications').showNotification>[0];

/** What shows notes comes behind the first paint. */
const show = async (note: Note) => (await import('@mantine/notifications')).notifications.show(note);

/** Says what went wrong, where it can be read and dismissed. */
export function complain(error: unknown) {
  void show({
    title: t('error.title'),
    message: error instanceof Error ? error.message : String(error),
    color: 'var(--plum)',
    autoClose: false,
    closeButtonProps: { 'aria-label': t('page.close') },
  });
}

/** Says what became of something. */
export function say(message: string) {
  void show({ message, color: 'var(--teal)', closeButtonProps: { 'aria-label': t('page.close') } });
}
