import { Button } from '@chakra-ui/react';
import { useParams } from 'react-router';
import { post } from '../api/client.ts';
import { useAnswer } from '../api/hooks.ts';
import { useAct } from '../api/useAct.ts';
import { keepDraftsOf } from '../parts/keptDraft.ts';
import { Outcome } from '../parts/Outcome.tsx';
import { Door } from './Door.tsx';
import { NewPerson } from './NewPerson.tsx';

/** Where the one-time link of the terminal leads: to become the owner the first time, to sign in after that. */
export function SignInByLink() {
  const { token = '' } = useParams();
  const { data } = useAnswer<{ purpose: string }>(`/api/session/link/${token}`);
  const acting = useAct();
  const enter = () =>
    acting.act(async () => {
      await post('/api/session/link', { token });
      keepDraftsOf('by link');
      window.location.assign('/');
    });
  if (!data) return <Door says="One moment …">{null}</Door>;
  if (data.purpose === 'none') {
    return (
      <Door says="This sign-in link has been used or is too old. On the server’s terminal, ./almanac sign-in prints another.">
        {null}
      </Door>
    );
  }
  if (data.purpose === 'make the owner') {
    return (
      <Door says="This business has no owner yet. Whoever fills this in becomes it and may do everything.">
        <NewPerson
          asksEmail
          button="Become the owner"
          onReady={async ({ name, email, password }) => {
            await post('/api/session/owner', { token, name, email, password });
            keepDraftsOf(email.trim().toLowerCase());
          }}
        />
      </Door>
    );
  }
  return (
    <Door says="This link signs the owner in, once.">
      <Button colorPalette="kelp" loading={acting.busy} onClick={() => void enter()}>
        Sign in as the owner
      </Button>
      <Outcome of={acting} />
    </Door>
  );
}
