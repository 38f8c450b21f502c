import { Box, Button, Flex, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import {
  invitationSchema,
  ROLES,
  SAY_ROLE,
  type InvitationView,
  type PersonView,
  type Role,
  type SessionView,
} from '../../../server/staff/messages.ts';
import { post, put, remove } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayInstant } from '../../parts/sayInstant.ts';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { Conflict } from '../../parts/Conflict.tsx';
import { Sessions } from './Sessions.tsx';

/** Who may sign in, as what; invitations and sessions. */
export function PeoplePage() {
  const { data: people } = useAnswer<PersonView[]>('/api/people');
  const { data: invitations } = useAnswer<InvitationView[]>('/api/invitations');
  const { data: sessions } = useAnswer<SessionView[]>('/api/sessions');
  const [chosen, setChosen] = useState<string | null>(null);
  const [inviting, setInviting] = useState(false);
  const acting = useAct();
  const person = people?.find(({ id }) => id === chosen);
  return (
    <PageAndMargin
      title="People"
      action={
        <Button size="sm" colorPalette="kelp" onClick={() => setInviting(true)}>
          Invite somebody
        </Button>
      }
      margin={
        inviting ? (
          <Invite onClose={() => setInviting(false)} />
        ) : person ? (
          <EditPerson key={`${person.id}${person.version}`} person={person} onGone={() => setChosen(null)} />
        ) : (
          <>
            <MarginHeading>Roles</MarginHeading>
            {ROLES.map((role) => (
              <Text key={role} mb="2">
                <b>{role}</b>: {SAY_ROLE[role]}
              </Text>
            ))}
            <Text color="muted">Choose somebody to change their role or to let them go.</Text>
          </>
        )
      }
    >
      <Table.Root size="sm" aria-label="People" bg="page" borderWidth="1px" borderColor="lines" maxW="900px">
        <Table.Header>
          <Table.Row bg="page">
            {['Name', 'E-mail', 'Role', 'Second factor', 'Seen last'].map((heading) => (
              <Table.ColumnHeader key={heading} color="muted" fontWeight="500">
                {heading}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {people?.map((one) => (
            <Table.Row
              key={one.id}
              h="36px"
              tabIndex={0}
              cursor="pointer"
              aria-selected={one.id === chosen}
              bg={one.id === chosen ? 'kelp.subtle' : 'page'}
              onClick={() => (setInviting(false), setChosen(one.id))}
              onKeyDown={(event) => event.key === 'Enter' && (setInviting(false), setChosen(one.id))}
            >
              <Table.Cell py="0">{one.name}</Table.Cell>
              <Table.Cell py="0">{one.email}</Table.Cell>
              <Table.Cell py="0">{one.role}</Table.Cell>
              <Table.Cell py="0">{one.secondFactor ? 'on' : 'off'}</Table.Cell>
              <Table.Cell py="0">{one.seenAt ? sayInstant(one.seenAt) : 'never'}</Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      {invitations && invitations.length > 0 && (
        <Box mt="7" maxW="900px">
          <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
            Invited, not here yet
          </Text>
          {invitations.map((one) => (
            <Flex key={one.id} borderTopWidth="1px" borderColor="lines" py="2" gap="3" align="center">
              <Box flex="1">
                {one.name}, {one.email}, as {one.role}
              </Box>
              <Text color="muted">good until {sayInstant(one.expiresAt)}</Text>
              <Button
                size="xs"
                variant="ghost"
                onClick={() =>
                  void acting.act(
                    () => remove(`/api/invitations/${one.id}`),
                    `The invitation of ${one.name} is withdrawn.`,
                  )
                }
              >
                Withdraw
              </Button>
            </Flex>
          ))}
        </Box>
      )}
      <Outcome of={acting} />
      <Box mt="7" maxW="900px">
        <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
          Signed in now
        </Text>
        <Sessions sessions={sessions ?? []} withNames />
      </Box>
    </PageAndMargin>
  );
}

function Invite({ onClose }: { readonly onClose: () => void }) {
  const [name, setName] = useState('');
  const [email, setEmail] = useState('');
  const [role, setRole] = useState<Role>('biller');
  const [faults, setFaults] = useState<Readonly<Record<string, string>>>({});
  const acting = useAct();
  const send = async () => {
    const parsed = invitationSchema.safeParse({ name, email, role });
    setFaults(
      parsed.success
        ? {}
        : Object.fromEntries(parsed.error.issues.map(({ path, message }) => [path.join('/'), message])),
    );
    if (parsed.success && (await acting.act(() => post('/api/invitations', parsed.data)))) onClose();
  };
  return (
    <>
      <MarginHeading>Invite somebody</MarginHeading>
      <Flex direction="column" gap="3">
        <TextField
          label="Name"
          required
          maxLength={120}
          value={name}
          error={faults.name}
          onChange={(event) => setName(event.target.value)}
        />
        <TextField
          label="E-mail"
          type="email"
          required
          value={email}
          error={faults.email ?? acting.problem?.at('/email')}
          onChange={(event) => setEmail(event.target.value)}
        />
        <SelectField
          label="Role"
          value={role}
          hint={SAY_ROLE[role]}
          onChange={(event) => setRole(event.target.value as Role)}
        >
          {ROLES.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </SelectField>
      </Flex>
      <Text color="muted" mt="3">
        A letter with a link goes out at once. The link is good for seven days and works once.
      </Text>
      <Flex gap="2" mt="4">
        <Button size="sm" colorPalette="kelp" loading={acting.busy} onClick={() => void send()}>
          Send the invitation
        </Button>
        <Button size="sm" variant="outline" onClick={onClose}>
          Leave it
        </Button>
      </Flex>
      <Outcome of={acting} />
    </>
  );
}

function EditPerson({ person, onGone }: { readonly person: PersonView; readonly onGone: () => void }) {
  const [name, setName] = useState(person.name);
  const [role, setRole] = useState(person.role);
  const [leaving, setLeaving] = useState(false);
  const acting = useAct();
  const store = (version: number) =>
    acting.act(() => put(`/api/people/${person.id}`, { version, value: { name, role } }), 'Stored.');
  const theirs = acting.problem?.theirs;
  return (
    <>
      <MarginHeading>{person.name}</MarginHeading>
      <Flex direction="column" gap="3">
        <TextField
          label="Name"
          maxLength={120}
          value={name}
          error={acting.problem?.at('/value/name')}
          onChange={(event) => setName(event.target.value)}
        />
        <SelectField
          label="Role"
          value={role}
          hint={SAY_ROLE[role]}
          error={acting.problem?.at('/value/role')}
          onChange={(event) => setRole(event.target.value as Role)}
        >
          {ROLES.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </SelectField>
      </Flex>
      {theirs && (
        <Conflict
          mine={{ name, role }}
          theirs={theirs.value as object}
          by={theirs.changedBy}
          onMine={() => void store(theirs.version)}
          onTheirs={onGone}
        />
      )}
      <Button
        mt="4"
        size="sm"
        colorPalette="kelp"
        loading={acting.busy}
        disabled={name === person.name && role === person.role}
        onClick={() => void store(person.version)}
      >
        Store the changes
      </Button>
      <Outcome of={acting} />
      {leaving ? (
        <Box mt="6" borderLeftWidth="3px" borderColor="declined" pl="3" role="group" aria-label="Let go">
          <Text>
            {person.name} is signed out everywhere at once and cannot sign in any more. What they did stays on
            the audit.
          </Text>
          <Flex gap="2" mt="2">
            <Button
              size="xs"
              colorPalette="red"
              onClick={async () => (await acting.act(() => remove(`/api/people/${person.id}`))) && onGone()}
            >
              Let {person.name} go
            </Button>
            <Button size="xs" variant="outline" onClick={() => setLeaving(false)}>
              Keep
            </Button>
          </Flex>
        </Box>
      ) : (
        <Button mt="6" size="xs" variant="outline" onClick={() => setLeaving(true)}>
          Let go …
        </Button>
      )}
    </>
  );
}
