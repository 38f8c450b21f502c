import { Button, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useLocation } from 'react-router';
import { sayDate } from '../../../../core/words/date.ts';
import type { EnrolmentDraft } from '../../../../server/reckonings/draftMessages.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { PageAndMargin } from '../../../frame/PageAndMargin.tsx';

/**
 * A stored draft as it was when its page was opened: what a colleague saves meanwhile never changes what somebody types in, and is
 * told of when they save.
 */
export function useStoredDraft(id: string | null): {
  readonly stored: EnrolmentDraft | undefined;
  readonly says: string | undefined;
} {
  // Every time that it is opened it is asked for anew.
  const { key } = useLocation();
  const path = id === null ? null : `/api/enrolment-drafts/${id}?opened=${key}`;
  const { data, error, isLoading } = useAnswer<EnrolmentDraft>(path);
  const [opened, setOpened] = useState<{ readonly path: string | null; readonly draft: EnrolmentDraft }>();
  if (data && !isLoading && !error && path !== null && opened?.path !== path)
    setOpened({ path, draft: data });
  const stored = opened?.path === path ? opened?.draft : undefined;
  return { stored, says: stored ? undefined : error?.message };
}

/** Says whose draft it is that stands in the form. */
export function StoredNote({ draft: { savedBy, savedOn } }: { readonly draft: EnrolmentDraft }) {
  return (
    <Text color="muted" mb="3">
      A draft that {savedBy} saved on {sayDate(savedOn)}. It is gone from the drafts once it is enrolled.
    </Text>
  );
}

/** The draft that an address leads to was finished or thrown away. */
export function NoSuchDraft({ says }: { readonly says: string }) {
  return (
    <PageAndMargin title="Enrol a customer">
      <Text mb="3">{says}</Text>
      <Button asChild size="sm" variant="outline">
        <Link to="/drafts">The drafts there are</Link>
      </Button>
    </PageAndMargin>
  );
}
