import { Button, Flex } from '@chakra-ui/react';
import { useState, type FormEvent } from 'react';
import { passwordSchema, SHORTEST_PASSWORD } from '../../server/staff/messages.ts';
import { useAct } from '../api/useAct.ts';
import { Outcome } from '../parts/Outcome.tsx';
import { TextField } from '../parts/TextField.tsx';

interface Typed {
  readonly name: string;
  readonly email: string;
  readonly password: string;
}

interface Props {
  readonly name?: string;
  readonly asksEmail?: boolean;
  readonly button: string;
  /** Makes the person and signs them in. */
  readonly onReady: (typed: Typed) => Promise<unknown>;
}

/** The form of somebody who comes in for the first time: a name and a password of their own. */
export function NewPerson({ name: known = '', asksEmail = false, button, onReady }: Props) {
  const [typed, setTyped] = useState<Typed>({ name: known, email: '', password: '' });
  const [again, setAgain] = useState('');
  const [faults, setFaults] = useState<Partial<Record<keyof Typed | 'again', string>>>({});
  const acting = useAct();
  const change = (to: Partial<Typed>) => setTyped({ ...typed, ...to });
  const enter = async (event: FormEvent) => {
    event.preventDefault();
    const password = passwordSchema.safeParse(typed.password);
    const found = {
      ...(typed.name.trim() === '' ? { name: 'Give your name.' } : {}),
      ...(asksEmail && !typed.email.includes('@') ? { email: 'Give your e-mail address.' } : {}),
      ...(password.success ? {} : { password: password.error.issues[0]?.message ?? '' }),
      ...(again === typed.password ? {} : { again: 'This is not the same password.' }),
    };
    setFaults(found);
    if (Object.keys(found).length > 0) return;
    await acting.act(async () => {
      await onReady(typed);
      window.location.assign('/');
    });
  };
  return (
    <form onSubmit={(event) => void enter(event)} noValidate>
      <Flex direction="column" gap="3">
        <TextField
          label="Your name"
          autoComplete="name"
          maxLength={120}
          value={typed.name}
          error={faults.name ?? acting.problem?.at('/name')}
          onChange={(event) => change({ name: event.target.value })}
        />
        {asksEmail && (
          <TextField
            label="Your e-mail"
            type="email"
            autoComplete="username"
            value={typed.email}
            error={faults.email ?? acting.problem?.at('/email')}
            onChange={(event) => change({ email: event.target.value })}
          />
        )}
        <TextField
          label="A password"
          type="password"
          autoComplete="new-password"
          hint={`At least ${SHORTEST_PASSWORD} characters; a few words that do not belong together are best.`}
          value={typed.password}
          error={faults.password ?? acting.problem?.at('/password')}
          onChange={(event) => change({ password: event.target.value })}
        />
        <TextField
          label="The same again"
          type="password"
          autoComplete="new-password"
          value={again}
          error={faults.again}
          onChange={(event) => setAgain(event.target.value)}
        />
      </Flex>
      <Button type="submit" mt="4" colorPalette="kelp" loading={acting.busy}>
        {button}
      </Button>
      <Outcome of={acting} />
    </form>
  );
}
