import { Button } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { useAskOnce } from '../../api/queries';
import { askSource, type Source, sourceTouched } from '../../api/sources';
import { t } from '../../words/words';

/** Removes a source; asked twice. What came from it stays. */
export function RemoveSource({ source }: { source: Source }) {
  const [sure, setSure] = useState(false);
  const navigate = useNavigate();
  const remove = useAskOnce(askSource.remove, sourceTouched);
  return (
    <Button
      variant="subtle"
      className="quietbutton"
      loading={remove.isPending}
      onBlur={() => setSure(false)}
      onClick={() =>
        sure
          ? remove.mutate(source.id, { onSuccess: () => void navigate({ to: '/gather', search: {} }) })
          : setSure(true)
      }
    >
      {t(sure ? 'sources.remove_sure' : 'sources.remove')}
    </Button>
  );
}
