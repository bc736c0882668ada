/** What is wrong with an arrival, in words for the rail. */
export const problemWords: Record<string, string> = {
  type_differs: 'type and name differ',
  not_picture: 'not a picture',
  damaged: 'damaged',
  too_large: 'too many pixels',
  empty: 'empty',
  litter: 'litter',
  encrypted: 'encrypted',
  unsafe_path: 'path leads out',
  not_archive: 'not an archive',
  refused: 'over a limit',
};

export const stateWords: Record<string, string> = {
  open: 'not sent in full',
  waiting: 'waits its turn',
  taking_in: 'being taken in',
  stopping: 'stopping',
  stopped: 'stopped',
  ready: '',
  failed: 'failed',
};
