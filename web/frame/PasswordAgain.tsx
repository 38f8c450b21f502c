import { Button, CloseButton, Dialog, Flex, Portal, Text } from '@chakra-ui/react';
import { useState, type FormEvent } from 'react';
import { post } from '../api/client.ts';
import { useAct } from '../api/useAct.ts';
import { Outcome } from '../parts/Outcome.tsx';
import { TextField } from '../parts/TextField.tsx';

interface Props {
  readonly open: boolean;
  readonly onClose: (did: boolean) => void;
}

/** Asks for the password again, over whatever is being done. */
export default function PasswordAgain({ open, onClose }: Props) {
  const [password, setPassword] = useState('');
  const [code, setCode] = useState('');
  const acting = useAct();
  const close = (did: boolean) => {
    setPassword('');
    setCode('');
    acting.clear();
    onClose(did);
  };
  const signIn = async (event: FormEvent) => {
    event.preventDefault();
    if (await acting.act(() => post('/api/session/again', { password, code }))) close(true);
  };
  return (
    <Dialog.Root open={open} onOpenChange={(details) => !details.open && close(false)} size="sm">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="page">
            <form onSubmit={(event) => void signIn(event)} noValidate>
              <Dialog.Header>
                <Dialog.Title fontWeight="500">Is it still you?</Dialog.Title>
              </Dialog.Header>
              <Dialog.Body>
                <Text mb="3">
                  This gives power or takes protection away, and it has been a while since you signed in.
                </Text>
                <Flex direction="column" gap="3">
                  <TextField
                    label="Your password"
                    type="password"
                    autoComplete="current-password"
                    autoFocus
                    value={password}
                    error={acting.problem?.at('/password')}
                    onChange={(event) => setPassword(event.target.value)}
                  />
                  <TextField
                    label="Code of your second factor, if you have one"
                    autoComplete="one-time-code"
                    maxLength={40}
                    value={code}
                    error={acting.problem?.at('/code')}
                    onChange={(event) => setCode(event.target.value)}
                  />
                </Flex>
                <Outcome of={acting} />
              </Dialog.Body>
              <Dialog.Footer>
                <Button type="submit" size="sm" colorPalette="kelp" loading={acting.busy}>
                  Go on
                </Button>
              </Dialog.Footer>
              <Dialog.CloseTrigger asChild>
                <CloseButton size="sm" />
              </Dialog.CloseTrigger>
            </form>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
