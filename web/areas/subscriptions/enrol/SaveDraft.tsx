import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { post, Problem, put } from '../../../api/client.ts';
import { useAct } from '../../../api/useAct.ts';
import { Outcome } from '../../../parts/Outcome.tsx';
import { withoutSecrets } from '../../../parts/keptDraft.ts';
import type { EnrolDraft } from './enrolDraft.ts';

interface Props {
  readonly draft: EnrolDraft;
  /** The stored draft that was opened; null: there is none yet. */
  readonly of: { readonly id: string; readonly version: number } | null;
  /** For whom it is and what it is about, as far as that is typed. */
  readonly who: string;
  readonly what: string;
  /** It is stored: nothing is to be kept in the browser. */
  readonly onSaved: () => void;
}

/** Stores a half-filled form where a colleague finds it. Of two who store the same, the second decides with both there. */
export default function SaveDraft({ draft, of, who, what, onSaved }: Props) {
  const acting = useAct();
  const navigate = useNavigate();
  /** What became of the draft that was opened: somebody saved another version, or finished it or threw it away. */
  const [late, setLate] = useState<'changed' | 'gone' | null>(null);
  const save = (own: boolean) =>
    acting.act(async () => {
      const message = {
        ...{ customerId: draft.who === 'existing' && draft.customerId !== '' ? draft.customerId : null },
        ...{ who, what, value: withoutSecrets(draft) },
      };
      try {
        const saved =
          of === null || own
            ? await post<{ id: string }>('/api/enrolment-drafts', message)
            : await put<{ id: string }>(`/api/enrolment-drafts/${of.id}`, {
                ...message,
                version: of.version,
              });
        onSaved();
        await navigate(`/drafts?draft=${saved.id}`);
      } catch (error) {
        const status = error instanceof Problem && of !== null && !own ? error.status : 0;
        setLate(status === 409 ? 'changed' : status === 404 ? 'gone' : null);
        throw error;
      }
    });
  return (
    <Box mt="4" borderTopWidth="1px" borderColor="lines" pt="3">
      <Button size="xs" variant="outline" loading={acting.busy} onClick={() => void save(false)}>
        Save it as a draft
      </Button>
      <Text color="muted" fontSize="13px" mt="1">
        For later, or for a colleague to finish. Nothing is charged or sent; a card is not kept.
      </Text>
      {late !== null && (
        <Flex gap="2" mt="2" wrap="wrap">
          <Button size="xs" variant="outline" onClick={() => void save(true)}>
            Save mine as a draft of its own
          </Button>
          {late === 'changed' && (
            <Button size="xs" variant="outline" onClick={() => void navigate(0)}>
              Open theirs
            </Button>
          )}
        </Flex>
      )}
      <Outcome of={acting} />
    </Box>
  );
}
