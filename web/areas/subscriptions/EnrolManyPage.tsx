import { Box, Button, Flex, Grid, Link as TextLink, RadioGroup, Table, Text } from '@chakra-ui/react';
import { useMemo, useState } from 'react';
import { Link, useLocation, useSearchParams } from 'react-router';
import { parseDay } from '../../../core/dates/day.ts';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { CustomerRow } from '../../../server/customers/messages.ts';
import type { Page } from '../../../server/http/list.ts';
import type { PlanView } from '../../../server/plans/messages.ts';
import { MOST_AT_ONCE, type ManyMessage, type ManyRow } from '../../../server/reckonings/manyMessages.ts';
import { post, withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { useLaw } from '../../api/useLaw.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { ComboField } from '../../parts/ComboField.tsx';
import { DateField } from '../../parts/DateField.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayCount } from '../../parts/sayCount.ts';
import { TermsPreview } from '../../parts/TermsPreview.tsx';
import { TextField } from '../../parts/TextField.tsx';
import { ChoiceFields } from './enrol/ChoiceFields.tsx';
import { NO_CHOICE } from './enrol/choice.ts';
import { nameOf, sentChoice } from './enrol/enrolDraft.ts';
import { NOTHING_OWN } from './enrol/ownDraft.ts';
import { choicesFor, rateChoices } from './enrol/rateChoices.ts';
import { useChoice } from './enrol/useChoice.ts';

interface Person {
  readonly id: string;
  readonly name: string;
}

/** Enrols several customers in the same rate at once; what that does to each is seen first. */
export function EnrolManyPage() {
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  if (!plans) return <PageLoading title="Enrol several customers" shape="form" />;
  return <EnrolMany plans={plans} />;
}

function EnrolMany({ plans }: { readonly plans: readonly PlanView[] }) {
  const { businessDate } = useFrame();
  const [params] = useSearchParams();
  const state = useLocation().state as { readonly customers?: readonly Person[] } | null;
  const [people, setPeople] = useState<readonly Person[]>(state?.customers ?? []);
  const [draft, setDraft] = useState({
    ...{ rateId: params.get('rate') ?? '', starts: businessDate, lastDay: '', choice: NO_CHOICE },
    pays: 'card' as 'card' | 'invoice',
  });
  const [sought, setSought] = useState('');
  const [rows, setRows] = useState<readonly ManyRow[] | null>(null);
  const [tried, setTried] = useState(false);
  const acting = useAct();
  const change = (to: Partial<typeof draft>) => {
    setDraft((now) => ({ ...now, ...to }));
    setRows(null);
  };
  const { rateId, starts, lastDay, choice } = draft;
  const chosen = useChoice({
    ...{ plans, rateId, choice, starts, lastDay, own: NOTHING_OWN, customerId: '', group: '' },
  });
  const { plan, rate, computed, variantId, codeSays } = chosen;
  const paidAs = draft.pays === 'invoice' ? ('by invoice' as const) : ('card' as const);
  const compile = useLaw(rate?.taxId, {}, paidAs);
  const choices = useMemo(() => rateChoices(plans, businessDate), [plans, businessDate]);
  const missing = [
    ...(people.length === 0 ? ['the customers'] : []),
    ...(people.length > MOST_AT_ONCE ? [`at most ${MOST_AT_ONCE} customers`] : []),
    ...(rate ? [] : ['a plan']),
    ...[...(computed?.faults.keys() ?? [])].map(nameOf),
    ...(parseDay(starts) !== null && starts >= businessDate ? [] : ['the day it starts']),
    ...(codeSays === undefined ? [] : ['a code that is taken, or none']),
  ];
  const message = (): ManyMessage => ({
    ...sentChoice(draft, { plan, rate, variantId }),
    ...{ customerIds: people.map(({ id }) => id), pays: draft.pays },
  });
  const look = () => {
    setTried(true);
    if (missing.length > 0) return;
    void acting.act(async () =>
      setRows(await post<ManyRow[]>('/api/subscriptions/several/effect', message())),
    );
  };
  const enrol = () =>
    acting.act(async () => setRows(await post<ManyRow[]>('/api/subscriptions/several', message())));
  const isDone = rows?.some(({ id }) => id !== null) ?? false;
  const going = rows?.filter(({ left }) => left === null) ?? [];
  const faultAt = (field: string) => (tried ? computed?.faults.get(field) : undefined);

  return (
    <PageAndMargin
      title="Enrol several customers"
      margin={
        <>
          <MarginHeading>What each is charged</MarginHeading>
          {computed === null ? (
            <Text color="muted">Choose a plan to see its charges, day by day.</Text>
          ) : (
            <TermsPreview
              terms={computed.terms}
              today={businessDate}
              compile={compile}
              issueBefore={rate?.options.issueDaysBefore}
            />
          )}
        </>
      }
    >
      <Grid gap="4" maxW="760px">
        <People
          people={people}
          error={tried && people.length === 0 ? 'Choose somebody.' : undefined}
          onChange={(now) => {
            setPeople(now);
            setRows(null);
          }}
        />
        {plan && rate ? (
          <Flex gap="3" align="center" wrap="wrap">
            <Text fontWeight="600">
              {plan.name}, {rate.name}
            </Text>
            <Text color="muted">{rate.says}</Text>
            <Button size="xs" variant="outline" onClick={() => change({ rateId: '' })}>
              Another rate
            </Button>
          </Flex>
        ) : (
          <ComboField
            label="Plan and rate"
            field="rateId"
            required
            placeholder="Type part of it, such as “row yearly”"
            items={choicesFor(choices, sought)}
            typed={sought}
            error={tried ? 'Choose a plan and a rate.' : undefined}
            nothing="No plan or rate is called so."
            onTyped={setSought}
            onTake={(id) => {
              setSought('');
              change({ rateId: id });
            }}
          />
        )}
        {plan && rate && (
          <ChoiceFields
            plan={plan}
            rate={rate}
            draft={{ ...choice, variantId }}
            faultAt={faultAt}
            onChange={(to) => change({ choice: { ...choice, ...to } })}
          />
        )}
        <Flex gap="3" wrap="wrap" align="flex-start">
          <Box w="170px">
            <DateField
              label="Starts"
              value={starts}
              onChange={(event) => change({ starts: event.target.value })}
            />
          </Box>
          <TextField
            label="Code"
            w="180px"
            maxLength={40}
            value={choice.code}
            error={codeSays}
            hint="If there is one."
            onChange={(event) => change({ choice: { ...choice, code: event.target.value } })}
          />
        </Flex>
        <Box>
          <Text fontWeight="500" id="several-pay">
            Method
          </Text>
          <RadioGroup.Root
            aria-labelledby="several-pay"
            size="sm"
            colorPalette="kelp"
            value={draft.pays}
            onValueChange={({ value }) => value !== null && change({ pays: value as 'card' | 'invoice' })}
          >
            <Flex columnGap="5" rowGap="1" wrap="wrap" py="1">
              <RadioGroup.Item value="card">
                <RadioGroup.ItemHiddenInput />
                <RadioGroup.ItemIndicator />
                <RadioGroup.ItemText>
                  What each has on file; whoever has nothing is asked by mail
                </RadioGroup.ItemText>
              </RadioGroup.Item>
              <RadioGroup.Item value="invoice">
                <RadioGroup.ItemHiddenInput />
                <RadioGroup.ItemIndicator />
                <RadioGroup.ItemText>By invoice</RadioGroup.ItemText>
              </RadioGroup.Item>
            </Flex>
          </RadioGroup.Root>
        </Box>
        {tried && missing.length > 0 && (
          <Text role="alert" color="declined">
            Still missing: {missing.join(', ')}.
          </Text>
        )}
        {rows === null && (
          <Button size="sm" w="fit-content" colorPalette="kelp" loading={acting.busy} onClick={look}>
            See what it does
          </Button>
        )}
        {rows && <Rows rows={rows} isDone={isDone} />}
        {rows && !isDone && going.length > 0 && (
          <Button
            size="sm"
            w="fit-content"
            colorPalette="kelp"
            loading={acting.busy}
            onClick={() => void enrol()}
          >
            Enrol {going.length === 1 ? 'one customer' : `${sayCount(going.length)} customers`}
          </Button>
        )}
        <Outcome of={acting} />
      </Grid>
    </PageAndMargin>
  );
}

/** Who is enrolled: chosen in the list before, or found here one by one. */
function People(props: {
  readonly people: readonly Person[];
  readonly error: string | undefined;
  readonly onChange: (people: readonly Person[]) => void;
}) {
  const { people, error, onChange } = props;
  const [typed, setTyped] = useState('');
  const text = typed.trim();
  const { data } = useAnswer<Page<CustomerRow>>(
    text === '' ? null : withQuery('/api/customers', { search: text }),
  );
  const found = (data?.rows ?? []).filter(({ id }) => !people.some((one) => one.id === id)).slice(0, 8);
  return (
    <Box role="group" aria-label="Customers">
      <ComboField
        label="Customers"
        field="customers"
        required
        placeholder="Name, e-mail or number of another"
        items={found.map(({ id, name, email }) => ({ value: id, label: name, detail: email }))}
        typed={typed}
        error={error}
        nothing="Nobody else is called so."
        onTyped={setTyped}
        onTake={(id) => {
          const taken = found.find((one) => one.id === id);
          setTyped('');
          if (taken) onChange([...people, { id, name: taken.name }]);
        }}
      />
      {people.length > 0 && (
        <Flex
          gap="2"
          wrap="wrap"
          mt="2"
          maxH="180px"
          overflow="auto"
          tabIndex={0}
          role="list"
          aria-label="Chosen"
        >
          {people.map(({ id, name }) => (
            <Flex
              key={id}
              role="listitem"
              align="center"
              gap="1"
              borderWidth="1px"
              borderColor="lines"
              borderRadius="md"
              ps="2"
            >
              <Text fontSize="13px">{name}</Text>
              <Button
                size="2xs"
                variant="ghost"
                aria-label={`Leave ${name} out`}
                onClick={() => onChange(people.filter((one) => one.id !== id))}
              >
                ×
              </Button>
            </Flex>
          ))}
        </Flex>
      )}
    </Box>
  );
}

/** What it does, or did, to each. */
function Rows({ rows, isDone }: { readonly rows: readonly ManyRow[]; readonly isDone: boolean }) {
  const going = rows.filter(({ left }) => left === null);
  const left = rows.length - going.length;
  return (
    <Box ref={(shown: HTMLElement | null) => shown?.scrollIntoView({ block: 'nearest' })}>
      <Text fontWeight="600" role="status">
        {isDone ? `Enrolled: ${sayCount(going.length)}.` : `${sayCount(going.length)} can be enrolled.`}
        {left > 0 && ` Left out: ${sayCount(left)}, with the reason.`}
        {sumsOf(going).map((sum) => ` First charges: ${sum}.`)}
      </Text>
      <Table.Root size="sm" mt="2" aria-label={isDone ? 'Who was enrolled' : 'What it does to each'}>
        <Table.Header>
          <Table.Row>
            {['Customer', 'Pays', 'First charge'].map((heading) => (
              <Table.ColumnHeader key={heading}>{heading}</Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {rows.map((row) => (
            <Table.Row key={row.customerId}>
              <Table.Cell>
                {row.id === null ? (
                  row.name
                ) : (
                  <TextLink asChild color="kelp.fg">
                    <Link to={`/subscriptions/${row.id}`}>{row.name}</Link>
                  </TextLink>
                )}
              </Table.Cell>
              {row.left === null ? (
                <>
                  <Table.Cell>{row.pays}</Table.Cell>
                  <Table.Cell>
                    {row.first
                      ? `${sayAmount(BigInt(row.first.due), row.first.currency)} on ${sayDate(row.first.dueOn)}`
                      : 'nothing'}
                  </Table.Cell>
                </>
              ) : (
                <Table.Cell colSpan={2} color="declined">
                  Left out: {row.left}
                </Table.Cell>
              )}
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </Box>
  );
}

/** The first charges together, one sum for each currency. */
function sumsOf(rows: readonly ManyRow[]): string[] {
  const sums = new Map<string, bigint>();
  for (const { first } of rows)
    if (first) sums.set(first.currency, (sums.get(first.currency) ?? 0n) + BigInt(first.due));
  return [...sums].map(([currency, sum]) => sayAmount(sum, currency));
}
