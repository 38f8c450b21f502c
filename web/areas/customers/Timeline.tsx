import { Box, Button, Flex, Input, Link as TextLink, Text } from '@chakra-ui/react';
import { useDeferredValue, useState } from 'react';
import { Link } from 'react-router';
import { sayDate } from '../../../core/words/date.ts';
import { MOMENT_KINDS } from '../../../server/customers/contactKinds.ts';
import type { Moment } from '../../../server/customers/contactMessages.ts';
import type { Page } from '../../../server/http/list.ts';
import { post, withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { Choice } from '../../parts/list/Choice.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayCount } from '../../parts/sayCount.ts';
import { TextField } from '../../parts/TextField.tsx';

/** All that happened with a customer along one line of time, the newest first; staff note things on it. */
export function Timeline({ customerId }: { readonly customerId: string }) {
  const [kind, setKind] = useState('');
  const [search, setSearch] = useState('');
  const [pages, setPages] = useState(1);
  const asked = useDeferredValue(search.trim());
  const path = `/api/customers/${customerId}/timeline`;
  const { data } = useAnswer<Page<Moment>>(withQuery(path, { kind, search: asked }));
  const from = (to: () => void) => {
    to();
    setPages(1);
  };
  return (
    <Box as="section" aria-label="What happened" mt="6">
      <Flex gap="3" align="center" mb="2" wrap="wrap">
        <Text as="h2" fontFamily="heading" fontSize="16px">
          What happened
        </Text>
        <Input
          size="sm"
          w="180px"
          placeholder="Search"
          aria-label="Search what happened"
          maxLength={100}
          value={search}
          onChange={(event) => from(() => setSearch(event.target.value))}
        />
        <Choice
          label="Kind"
          all="All of it"
          value={kind}
          choices={Object.entries(MOMENT_KINDS)}
          onChange={(to) => from(() => setKind(to))}
        />
        <Text color="muted" ml="auto" aria-live="polite">
          {data ? `${sayCount(data.total)} in all` : ''}
        </Text>
      </Flex>
      <Note customerId={customerId} />
      {data?.total === 0 && <Text color="muted">{asked || kind ? 'Nothing matches.' : 'Nothing yet.'}</Text>}
      {data && data.total > 0 && (
        <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" px="4" py="2">
          {Array.from({ length: Math.min(pages, data.pages) }, (_, i) => (
            <Moments key={i} path={withQuery(path, { kind, search: asked, page: i + 1 })} />
          ))}
          {pages < data.pages && (
            <Button size="xs" variant="ghost" onClick={() => setPages(pages + 1)}>
              Earlier
            </Button>
          )}
        </Box>
      )}
    </Box>
  );
}

function Moments({ path }: { readonly path: string }) {
  const { data } = useAnswer<Page<Moment>>(path);
  return data?.rows.map((one) => (
    <Flex key={one.id} gap="3" py="1" borderBottomWidth="1px" borderColor="lines" fontSize="14px">
      <Box w="124px" flexShrink={0} color="muted">
        {sayDate(one.on)}
      </Box>
      <Box flex="1" minW="0" overflowWrap="anywhere" whiteSpace="pre-wrap">
        {one.to === null ? (
          one.says
        ) : (
          <TextLink asChild>
            <Link to={one.to}>{one.says}</Link>
          </TextLink>
        )}
        {one.beside !== '' && (
          <Box as="span" color="muted" ml="2">
            {one.beside}
          </Box>
        )}
      </Box>
      <Box color="muted" flexShrink={0}>
        {one.kind}
      </Box>
    </Flex>
  ));
}

function Note({ customerId }: { readonly customerId: string }) {
  const [says, setSays] = useState('');
  const acting = useAct();
  const note = async () => {
    if (await acting.act(() => post(`/api/customers/${customerId}/notes`, { says: says.trim() }), 'Noted.'))
      setSays('');
  };
  return (
    <ForWriters>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (says.trim() !== '') void note();
        }}
      >
        <Flex gap="2" align="flex-end" mb="2">
          <TextField
            label="Note, for staff alone"
            field="says"
            maxLength={4000}
            value={says}
            error={acting.problem?.at('/says')}
            onChange={(event) => setSays(event.target.value)}
          />
          <Button
            type="submit"
            size="sm"
            variant="outline"
            loading={acting.busy}
            disabled={says.trim() === ''}
          >
            Note it
          </Button>
        </Flex>
        <Outcome of={acting} />
      </form>
    </ForWriters>
  );
}
