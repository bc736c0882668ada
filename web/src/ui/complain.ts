import { notifications } from '@mantine/notifications';

/** Says what went wrong, where it can be read and dismissed. */
export function complain(error: unknown) {
  notifications.show({
    title: 'That did not work',
    message: error instanceof Error ? error.message : String(error),
    color: 'var(--plum)',
    autoClose: false,
  });
}

export function say(message: string) {
  notifications.show({ message, color: 'var(--teal)' });
}
