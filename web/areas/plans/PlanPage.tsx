import { Box, Button, Flex, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { planSchema, type PlanView, type RateView } from '../../../server/plans/messages.ts';
import { put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { useLaw } from '../../api/useLaw.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Conflict } from '../../parts/Conflict.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { TermsPreview } from '../../parts/TermsPreview.tsx';
import { compareRates } from './compareRates.ts';
import { PlanFields, type PlanFacts } from './PlanFields.tsx';
import { sampleTerms } from './sampleTerms.ts';

/** One plan: what it says, its rates side by side, and what can be done with it. */
export function PlanPage() {
  const { id = '' } = useParams();
  const { data: plan, error } = useAnswer<PlanView>(`/api/plans/${id}`);
  const [chosen, setChosen] = useState<string | null>(null);
  const [editing, setEditing] = useState(false);
  const { businessDate } = useFrame();
  const rate = plan?.rates.find((one) => one.id === chosen) ?? plan?.rates[0];
  const compile = useLaw(rate?.taxId);
  if (error) return <PageAndMargin title="There is no such plan">{error.message}</PageAndMargin>;
  if (!plan) return null;
  return (
    <PageAndMargin
      title={plan.name}
      action={
        <ForWriters>
          <Flex gap="2">
            <Button size="sm" variant="outline" onClick={() => setEditing(!editing)}>
              Edit
            </Button>
            <Button asChild size="sm" colorPalette="kelp">
              <Link to={`/plans/${id}/rates/new`}>Add a rate</Link>
            </Button>
          </Flex>
        </ForWriters>
      }
      margin={
        editing ? (
          <EditPlan key={plan.version} plan={plan} onClose={() => setEditing(false)} />
        ) : (
          rate && (
            <>
              <MarginHeading>{rate.name}</MarginHeading>
              <Text mb="3">{rate.says}</Text>
              <TermsPreview
                key={rate.id}
                terms={sampleTerms(rate.terms, businessDate)}
                today={businessDate}
                compile={compile}
              />
            </>
          )
        )
      }
    >
      <Text color="muted" mb="4" whiteSpace="pre-wrap">
        {[plan.outerName && `Customers see: ${plan.outerName}.`, plan.description].filter(Boolean).join(' ')}
      </Text>
      {plan.archivedOn !== null && (
        <Text color="declined" mb="3">
          Archived: nobody new can be enrolled. Those who subscribe go on.
        </Text>
      )}
      <Rates plan={plan} chosen={rate?.id ?? null} onChoose={setChosen} />
      <ForWriters>
        <Archive
          what="plan"
          id={plan.id}
          name={plan.name}
          archived={plan.archivedOn !== null}
          subscribers={plan.subscribers}
        />
      </ForWriters>
    </PageAndMargin>
  );
}

function Rates(props: { plan: PlanView; chosen: string | null; onChoose: (id: string) => void }) {
  const { plan, chosen, onChoose } = props;
  const { businessDate } = useFrame();
  const open = plan.rates.filter(({ archivedOn }) => archivedOn === null);
  const compared = compareRates(open, businessDate);
  return (
    <Table.Root
      size="sm"
      aria-label="Rates"
      bg="page"
      borderWidth="1px"
      borderColor="lines"
      tableLayout="fixed"
    >
      <Table.Header>
        <Table.Row bg="page">
          {['Rate', 'Price', 'A year', 'Saves a year', 'Subscribers', ''].map((heading, i) => (
            <Table.ColumnHeader
              key={heading}
              color="muted"
              fontWeight="500"
              textAlign={i >= 2 && i <= 4 ? 'end' : 'start'}
              w={['20%', '', '95px', '125px', '95px', '80px'][i]}
            >
              {heading}
            </Table.ColumnHeader>
          ))}
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {plan.rates.map((rate) => (
          <RateRow
            key={rate.id}
            plan={plan}
            rate={rate}
            compared={compared.get(rate.id)}
            chosen={rate.id === chosen}
            onChoose={() => onChoose(rate.id)}
          />
        ))}
      </Table.Body>
    </Table.Root>
  );
}

function RateRow(props: {
  plan: PlanView;
  rate: RateView;
  compared: { year: bigint; saves: bigint; percent: string; against: string } | undefined;
  chosen: boolean;
  onChoose: () => void;
}) {
  const { plan, rate, compared, chosen, onChoose } = props;
  const currency = String(rate.terms.currency);
  return (
    <Table.Row
      h="36px"
      tabIndex={0}
      cursor="pointer"
      aria-selected={chosen}
      bg={chosen ? 'kelp.subtle' : 'page'}
      color={rate.archivedOn ? 'muted' : undefined}
      onClick={onChoose}
      onKeyDown={(event) => event.key === 'Enter' && event.target === event.currentTarget && onChoose()}
    >
      <Table.Cell py="1">
        {rate.name}
        <Box color="muted" fontSize="12px">
          {rate.archivedOn ? 'archived' : plan.firstRate === rate.id ? 'offered first' : ''}
          {rate.version > 1 ? ` version ${rate.version}` : ''}
        </Box>
      </Table.Cell>
      <Table.Cell py="1">{rate.says}</Table.Cell>
      <Table.Cell py="1" textAlign="end">
        {compared && sayAmount(compared.year, currency)}
      </Table.Cell>
      <Table.Cell py="1" textAlign="end" title={compared?.against}>
        {compared && compared.saves > 0n
          ? `${sayAmount(compared.saves, currency)} (${compared.percent}%)`
          : ''}
      </Table.Cell>
      <Table.Cell py="1" textAlign="end">
        {rate.subscribers}
      </Table.Cell>
      <Table.Cell py="1" textAlign="end">
        <ForWriters>
          <Button asChild size="2xs" variant="outline">
            <Link to={`/plans/${plan.id}/rates/${rate.id}`}>Change</Link>
          </Button>
        </ForWriters>
      </Table.Cell>
    </Table.Row>
  );
}

/** Takes a plan or a rate off sale, after saying what that does; or puts it back. */
export function Archive(props: {
  readonly what: 'plan' | 'rate';
  readonly id: string;
  readonly name: string;
  readonly archived: boolean;
  readonly subscribers: number;
}) {
  const { what, id, name, archived, subscribers } = props;
  const [asking, setAsking] = useState(false);
  const acting = useAct();
  const set = async (to: boolean) => {
    if (await acting.act(() => put(`/api/${what}s/${id}/archived`, { archived: to }))) setAsking(false);
  };
  return (
    <Box mt="6">
      {archived ? (
        <Button size="xs" variant="outline" loading={acting.busy} onClick={() => void set(false)}>
          Restore {name}
        </Button>
      ) : asking ? (
        <Box borderLeftWidth="3px" borderColor="declined" pl="3" role="group" aria-label="Archive">
          <Text>
            Nobody new can be enrolled.{' '}
            {subscribers === 0
              ? 'Nobody subscribes now.'
              : `The ${subscribers} who subscribe go on as they are.`}{' '}
            It can be restored.
          </Text>
          <Flex gap="2" mt="2">
            <Button size="xs" colorPalette="red" loading={acting.busy} onClick={() => void set(true)}>
              Archive {name}
            </Button>
            <Button size="xs" variant="outline" onClick={() => setAsking(false)}>
              Keep it
            </Button>
          </Flex>
        </Box>
      ) : (
        <Button size="xs" variant="outline" onClick={() => setAsking(true)}>
          Archive the {what} …
        </Button>
      )}
      <Outcome of={acting} />
    </Box>
  );
}

function EditPlan({ plan, onClose }: { readonly plan: PlanView; readonly onClose: () => void }) {
  const [facts, setFacts] = useState<PlanFacts>({
    name: plan.name,
    outerName: plan.outerName,
    kind: plan.kind,
    description: plan.description,
    statementText: plan.statementText ?? '',
  });
  const [firstRate, setFirstRate] = useState(plan.firstRate ?? '');
  const acting = useAct();
  const value = { ...facts, statementText: facts.statementText || null, firstRate: firstRate || null };
  const parsed = planSchema.safeParse(value);
  const faults = new Map(
    parsed.success ? [] : parsed.error.issues.map(({ path, message }) => [path.join('/'), message]),
  );
  const store = async (version: number) => {
    if (
      parsed.success &&
      (await acting.act(() => put(`/api/plans/${plan.id}`, { version, value: parsed.data })))
    )
      onClose();
  };
  const theirs = acting.problem?.theirs;
  return (
    <>
      <MarginHeading>Edit the plan</MarginHeading>
      <PlanFields
        facts={facts}
        faultAt={(name) => faults.get(name) ?? acting.problem?.at(`/value/${name}`)}
        onChange={(to) => setFacts({ ...facts, ...to })}
      />
      <Box mt="3" role="radiogroup" aria-label="Offered first">
        <Text fontWeight="500">Offered first</Text>
        {plan.rates
          .filter(({ archivedOn }) => archivedOn === null)
          .map((rate) => (
            <Box key={rate.id}>
              <label>
                <input
                  type="radio"
                  name="first"
                  checked={firstRate === rate.id}
                  onChange={() => setFirstRate(rate.id)}
                />{' '}
                {rate.name}
              </label>
            </Box>
          ))}
      </Box>
      {theirs && (
        <Conflict
          mine={value}
          theirs={theirs.value as object}
          by={theirs.changedBy}
          onMine={() => void store(theirs.version)}
          onTheirs={onClose}
        />
      )}
      <Flex gap="2" mt="4">
        <Button size="sm" colorPalette="kelp" loading={acting.busy} onClick={() => void store(plan.version)}>
          Store the changes
        </Button>
        <Button size="sm" variant="outline" onClick={onClose}>
          Leave it
        </Button>
      </Flex>
      <Outcome of={acting} />
    </>
  );
}
