import { Box, Button, Checkbox, Flex, Link as A, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { OfferImport } from '../../../server/imports/messages.ts';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { PageAndMargin, MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';

/** What is offered as one file, out and in: what would change is seen first. */
export function OfferFilePage() {
  const [text, setText] = useState('');
  const [update, setUpdate] = useState(false);
  const [would, setWould] = useState<OfferImport | null>(null);
  const acting = useAct();
  const look = (given: string, changing = update) =>
    acting.act(async () =>
      setWould(await post<OfferImport>('/api/offer', { text: given, dryRun: true, update: changing })),
    );
  const bring = () =>
    acting.act(async () => {
      await post<OfferImport>('/api/offer', { text, dryRun: false, update });
      setWould(null);
      setText('');
    }, 'Brought in.');
  const changes =
    would?.differences.filter(({ how }) => how !== 'same' && (update || how !== 'differs')) ?? [];
  return (
    <PageAndMargin
      title="What is offered, as a file"
      margin={
        <>
          <MarginHeading>Out</MarginHeading>
          <Text mb="2">
            Plans with their rates, and discounts with the codes that many may use, in the open format.
          </Text>
          <A href="/api/offer.json" color="kelp.fg">
            offer.json
          </A>
          {would && would.problems.length === 0 && (
            <Box mt="6">
              <MarginHeading>In</MarginHeading>
              <Text mb="2">
                {would.added.plans} plans, {would.added.rates} rates and {would.added.discounts} discounts are
                added
                {would.changed.rates > 0
                  ? `; ${would.changed.rates} rates get a new version, and those who subscribe stay on theirs`
                  : ''}
                .
              </Text>
              <Button
                size="sm"
                colorPalette="kelp"
                disabled={changes.length === 0}
                loading={acting.busy}
                onClick={() => void bring()}
              >
                Bring it in
              </Button>
            </Box>
          )}
          <Outcome of={acting} />
        </>
      }
    >
      <Flex gap="4" align="center" mb="4" wrap="wrap">
        <label>
          A file to bring in:{' '}
          <input
            type="file"
            accept=".json,application/json"
            onChange={async (event) => {
              const given = (await event.target.files?.[0]?.text()) ?? '';
              setText(given);
              if (given !== '') await look(given);
            }}
          />
        </label>
        <Checkbox.Root
          colorPalette="kelp"
          checked={update}
          onCheckedChange={({ checked }) => {
            setUpdate(checked === true);
            if (text !== '') void look(text, checked === true);
          }}
        >
          <Checkbox.HiddenInput />
          <Checkbox.Control />
          <Checkbox.Label>save rates that differ as new versions</Checkbox.Label>
        </Checkbox.Root>
      </Flex>
      {!would && <Text color="muted">Nothing is changed before you have seen what the file would do.</Text>}
      {would?.problems.map(({ line, says }) => (
        <Text key={`${line}${says}`} color="declined" role="alert">
          Line {line}: {says}
        </Text>
      ))}
      {would && would.differences.length > 0 && (
        <Table.Root
          size="sm"
          aria-label="What the file would do"
          bg="page"
          borderWidth="1px"
          borderColor="lines"
        >
          <Table.Body>
            {would.differences.map((difference) => (
              <Table.Row key={difference.what} bg="page">
                <Table.Cell verticalAlign="top">{difference.what}</Table.Cell>
                <Table.Cell verticalAlign="top" color={difference.how === 'same' ? 'muted' : undefined}>
                  {difference.how === 'differs' && !update ? 'differs, and is left as it is' : difference.how}
                </Table.Cell>
                <Table.Cell fontFamily="mono" fontSize="12px" overflowWrap="anywhere" whiteSpace="normal">
                  {difference.members.map(({ member, stored, file }) => (
                    <Box key={member}>
                      {member}: {stored || '(none)'} {'→'} {file || '(none)'}
                    </Box>
                  ))}
                </Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
    </PageAndMargin>
  );
}
