import { Button, Flex, Text } from '@chakra-ui/react';
import { useState, type FormEvent } from 'react';
import { post } from '../api/client.ts';
import { useAnswer } from '../api/hooks.ts';
import { useAct } from '../api/useAct.ts';
import { keepDraftsOf } from '../parts/keptDraft.ts';
import { Outcome } from '../parts/Outcome.tsx';
import { TextField } from '../parts/TextField.tsx';
import { Door } from './Door.tsx';

const PROMISE =
  'Nothing is confirmed before you have seen what it will do, day by day and to the cent; nothing is ever charged twice; nobody lapses in silence.';

/** Asks who is there. In the demo one button signs in; that button does not exist elsewhere. */
export function SignIn() {
  const { data } = useAnswer<{ demo: boolean }>('/api/session');
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const [code, setCode] = useState('');
  const [wantsCode, setWantsCode] = useState(false);
  const acting = useAct();
  const signIn = (event: FormEvent) => {
    event.preventDefault();
    void acting.act(async () => {
      const outcome = await post<{ signedIn: boolean }>('/api/session/password', { email, password, code });
      if (outcome.signedIn) keepDraftsOf(email.trim().toLowerCase());
      setWantsCode(!outcome.signedIn);
    });
  };
  return (
    <Door says={PROMISE}>
      {data?.demo && (
        <Button
          colorPalette="kelp"
          mb="6"
          onClick={() =>
            void acting.act(async () => {
              await post('/api/session/demo');
              keepDraftsOf('demo');
            })
          }
        >
          Open the sample business
        </Button>
      )}
      <form onSubmit={signIn} noValidate>
        <Flex direction="column" gap="3">
          <TextField
            label="E-mail"
            type="email"
            autoComplete="username"
            value={email}
            error={acting.problem?.at('/email')}
            onChange={(event) => setEmail(event.target.value)}
          />
          <TextField
            label="Password"
            type="password"
            autoComplete="current-password"
            value={password}
            error={acting.problem?.at('/password')}
            onChange={(event) => setPassword(event.target.value)}
          />
          {wantsCode && (
            <TextField
              label="Code of your second factor"
              autoComplete="one-time-code"
              autoFocus
              maxLength={40}
              hint="Six digits from your device, or a recovery code."
              value={code}
              error={acting.problem?.at('/code')}
              onChange={(event) => setCode(event.target.value)}
            />
          )}
        </Flex>
        <Button type="submit" mt="4" colorPalette="kelp" variant="outline" loading={acting.busy}>
          Sign in
        </Button>
      </form>
      <Outcome of={acting} />
      {data?.demo === false && (
        <Text color="muted" fontSize="13px" mt="4">
          Password lost? On the server’s terminal, ./almanac sign-in prints a link that signs the owner in.
        </Text>
      )}
    </Door>
  );
}
