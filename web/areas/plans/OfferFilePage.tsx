import { Box, Button, Checkbox, Flex, Link as A, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { OfferImport } from '../../../server/imports/messages.ts';
import { Problem, upload } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { PageAndMargin, MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';

const OF_FILE = { tooLarge: 'A file has at most 40 MB.', notTaken: 'The file was not taken.' };

/** Sends a file of what is offered, as plain text. */
const send = (path: string, file: Blob, update: boolean) =>
  upload<OfferImport>(
    `${path}?update=${update ? 'yes' : 'no'}`,
    new Blob([file], { type: 'text/plain' }),
    OF_FILE,
  );

/** A value of a file, cut where it is long. */
const short = (value: string) =>
  value === '' ? '(none)' : value.length > 300 ? `${value.slice(0, 300)} …` : value;

const NAMES = {
  plans: ['plan', 'plans'],
  rates: ['rate', 'rates'],
  variants: ['variant', 'variants'],
  rateCards: ['rate card', 'rate cards'],
  discounts: ['discount', 'discounts'],
} as const;

/** What a file adds and changes, in a sentence or two. */
function sayWould({ added, changed }: OfferImport): string {
  const list = (counts: Readonly<Record<keyof typeof NAMES, number>>) => {
    const parts = (Object.keys(NAMES) as (keyof typeof NAMES)[])
      .filter((kind) => counts[kind] > 0)
      .map((kind) => `${counts[kind]} ${NAMES[kind][counts[kind] === 1 ? 0 : 1]}`);
    return new Intl.ListFormat('en', { type: 'conjunction' }).format(parts);
  };
  const [adds, changes] = [list(added), list(changed)];
  return [
    adds === '' ? 'Nothing is added.' : `Added: ${adds}.`,
    changes === '' ? '' : `Changed: ${changes}.`,
    changed.rates > 0 ? 'Those who subscribe to a changed rate stay on their version.' : '',
  ]
    .filter(Boolean)
    .join(' ');
}

/** What is offered as one file, out and in: what would change is seen first. */
export function OfferFilePage() {
  const [file, setFile] = useState<Blob | null>(null);
  const [update, setUpdate] = useState(false);
  const [would, setWould] = useState<OfferImport | null>(null);
  const acting = useAct();
  const [busy, setBusy] = useState<'' | 'held' | 'brought'>('');
  const look = (given: Blob, changing = update) =>
    acting.act(async () => {
      setBusy('held');
      setWould(null);
      setWould(await send('/api/offer/differences', given, changing).finally(() => setBusy('')));
    });
  const bring = () =>
    acting.act(async () => {
      if (file === null) return;
      setBusy('brought');
      const { problems } = await send('/api/offer', file, update).finally(() => setBusy(''));
      if (problems[0]) throw new Problem(422, `Nothing was changed. ${problems[0].says}`, []);
      setWould(null);
      setFile(null);
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
            Plans with their rates, variants, pictures and documents, rate cards, and discounts with the codes
            that many may use, in the open format.
          </Text>
          <A href="/api/offer.json" color="kelp.fg">
            offer.json
          </A>
          {would && would.problems.length === 0 && (
            <Box mt="6">
              <MarginHeading>In</MarginHeading>
              <Text mb="2">{sayWould(would)}</Text>
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
              const given = event.target.files?.[0];
              setFile(given ?? null);
              if (given) await look(given);
            }}
          />
        </label>
        <Checkbox.Root
          colorPalette="kelp"
          checked={update}
          onCheckedChange={({ checked }) => {
            setUpdate(checked === true);
            if (file !== null) void look(file, checked === true);
          }}
        >
          <Checkbox.HiddenInput />
          <Checkbox.Control />
          <Checkbox.Label>make what differs what the file says; rates get a new version</Checkbox.Label>
        </Checkbox.Root>
      </Flex>
      {busy !== '' && (
        <Text role="status">
          {busy === 'held' ? 'The file is held against what is stored …' : 'The file is brought in …'}
        </Text>
      )}
      {!would && busy === '' && (
        <Text color="muted">Nothing is changed before you have seen what the file would do.</Text>
      )}
      {would && would.problems.length > 0 && (
        <Text mb="2">Mend this first; nothing can be brought in before.</Text>
      )}
      {would?.problems.map(({ line, says }) => (
        <Text key={`${line}${says}`} color="declined" role="alert">
          Line {line}: {says}
        </Text>
      ))}
      {would && would.problems.length === 0 && <Differences of={would.differences} update={update} />}
    </PageAndMargin>
  );
}

/** What is new and what differs, row by row; what is the same is named in a line. */
function Differences(props: { readonly of: OfferImport['differences']; readonly update: boolean }) {
  const { of, update } = props;
  const others = of.filter(({ how }) => how !== 'same');
  const same = of.filter(({ how }) => how === 'same').map(({ what }) => what);
  return (
    <>
      {others.length > 0 && (
        <Table.Root
          size="sm"
          aria-label="What the file would do"
          bg="page"
          borderWidth="1px"
          borderColor="lines"
          tableLayout="fixed"
        >
          <Table.Body>
            {others.map((difference) => (
              <Table.Row key={difference.what} bg="page">
                <Table.Cell verticalAlign="top" w="30%">
                  {difference.what}
                </Table.Cell>
                <Table.Cell verticalAlign="top" w="18%">
                  {difference.how === 'differs' && !update ? 'differs, and is left as it is' : difference.how}
                </Table.Cell>
                <Table.Cell fontSize="13px" overflowWrap="anywhere" whiteSpace="normal">
                  {difference.members.map(({ member, stored, file }) => (
                    <Box key={member}>
                      <Box as="span" color="muted">
                        {member}:
                      </Box>{' '}
                      {short(stored)} {'→'} {short(file)}
                    </Box>
                  ))}
                </Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
      {same.length > 0 && (
        <Text color="muted" mt="3">
          {others.length === 0 ? 'All of it is stored already: ' : 'The same as it is stored: '}
          {same.join('; ')}.
        </Text>
      )}
    </>
  );
}
