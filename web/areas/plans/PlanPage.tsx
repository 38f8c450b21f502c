import { Box, Button, Flex, Table, Text, Link as TextLink } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import {
  bestSaving,
  compareRates,
  type ComparedRate,
  type OfferedRate,
} from '../../../core/offer/compareRates.ts';
import { composeTerms, type RateTerms } from '../../../core/offer/composeTerms.ts';
import { sayAmount } from '../../../core/words/amount.ts';
import type { PlanView, RateView } from '../../../server/plans/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useLaw } from '../../api/useLaw.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { ShownText } from '../../parts/ShownText.tsx';
import { TermsPreview } from '../../parts/TermsPreview.tsx';
import { Archive } from '../../parts/Archive.tsx';
import { AgainstOthers } from './plan/AgainstOthers.tsx';
import { HowSold } from './plan/HowSold.tsx';
import { PagesOf } from './plan/PagesOf.tsx';
import { PlanSummary } from './plan/PlanSummary.tsx';
import { VariantsOf } from './plan/VariantsOf.tsx';

/** One plan: what it says, its rates side by side, its variants, and what can be done with it. */
export function PlanPage() {
  const { id = '' } = useParams();
  const { data: plan, error } = useAnswer<PlanView>(`/api/plans/${id}`);
  const [chosen, setChosen] = useState<string | null>(null);
  const { businessDate } = useFrame();
  if (error) return <PageAndMargin title="There is no such plan">{error.message}</PageAndMargin>;
  if (!plan) return <PageLoading title="Plan" />;
  const rate = plan.rates.find((one) => one.id === chosen) ?? plan.rates[0];
  const open = plan.rates.filter(({ archivedOn }) => archivedOn === null);
  const compared = compareRates(open as unknown as OfferedRate[], businessDate);
  return (
    <PageAndMargin
      title={plan.name}
      action={
        <ForWriters>
          <Flex gap="2">
            <Button asChild size="sm" variant="outline">
              <Link to={`/plans/${id}/edit`}>Edit</Link>
            </Button>
            <Button asChild size="sm" variant="outline">
              <Link to={`/plans/${id}/variants/new`}>Add a variant</Link>
            </Button>
            {plan.archivedOn === null && rate?.archivedOn === null && (
              <Button asChild size="sm" variant="outline">
                <Link to={`/enrol?rate=${rate.id}`}>Enrol a customer</Link>
              </Button>
            )}
            {plan.archivedOn === null && rate?.archivedOn === null && (
              <Button asChild size="sm" variant="outline">
                <Link to={`/enrol/several?rate=${rate.id}`}>Enrol several</Link>
              </Button>
            )}
            <Button asChild size="sm" colorPalette="kelp">
              <Link to={`/plans/${id}/rates/new`}>Add a rate</Link>
            </Button>
          </Flex>
        </ForWriters>
      }
      margin={rate && <ChosenRate rate={rate} compared={compared.get(rate.id)} />}
    >
      <Flex gap="4" mb="4" align="flex-start">
        {plan.pictureAt && (
          <img src={plan.pictureAt} alt="" style={{ maxWidth: 120, maxHeight: 90, borderRadius: 4 }} />
        )}
        <Box color="muted" maxW="760px">
          {plan.outerName && <Text>Customers see: {plan.outerName}.</Text>}
          <ShownText html={plan.description} />
        </Box>
      </Flex>
      {plan.archivedOn !== null && (
        <Text color="declined" mb="3">
          Archived: nobody new can be enrolled. Those who subscribe go on.
        </Text>
      )}
      {plan.archivedOn === null && plan.notSold && (
        <Text color="declined" mb="3">
          It cannot be sold now: {plan.notSold}.
        </Text>
      )}
      {plan.archivedOn === null && open.length > 0 && (
        <PagesOf plan={plan} rates={open.map((one) => one.id)} />
      )}
      <Rates plan={plan} compared={compared} chosen={rate?.id ?? null} onChoose={setChosen} />
      {plan.variants.length > 0 && <VariantsOf plan={plan} />}
      <PlanSummary plan={plan} />
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

const COLUMNS = [
  ['Rate', '20%'],
  ['Price', ''],
  ['A year, net', '106px'],
  ['Saves', '150px'],
  ['Subscribers', '95px'],
  ['', '80px'],
] as const;

function Rates(props: {
  plan: PlanView;
  compared: ReadonlyMap<string, ComparedRate>;
  chosen: string | null;
  onChoose: (id: string) => void;
}) {
  const { plan, compared, chosen, onChoose } = props;
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
          {COLUMNS.map(([heading, width], i) => (
            <Table.ColumnHeader
              key={heading}
              color="muted"
              fontWeight="500"
              textAlign={i >= 2 && i <= 4 ? 'end' : 'start'}
              w={width}
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
  compared: ComparedRate | undefined;
  chosen: boolean;
  onChoose: () => void;
}) {
  const { plan, rate, compared, chosen, onChoose } = props;
  const currency = String(rate.terms.currency);
  const saving = compared && bestSaving(compared);
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
          {rate.behind > 0 ? `, ${rate.behind} on earlier ones` : ''}
        </Box>
      </Table.Cell>
      <Table.Cell py="1">{rate.says}</Table.Cell>
      <Table.Cell py="1" textAlign="end">
        {compared?.year !== null && compared && sayAmount(compared.year, currency)}
        {compared?.total !== null && compared && (
          <>
            {sayAmount(compared.total, currency)}
            <Box color="muted" fontSize="12px">
              in all
            </Box>
          </>
        )}
      </Table.Cell>
      <Table.Cell py="1" textAlign="end">
        {saving && (
          <>
            {sayAmount(saving.saves, currency)} ({saving.percent}%)
            <Box color="muted" fontSize="12px">
              {saving.basis}
            </Box>
          </>
        )}
      </Table.Cell>
      <Table.Cell py="1" textAlign="end">
        {rate.subscribers === 0 ? (
          0
        ) : (
          <TextLink asChild color="kelp.fg" aria-label={`Who subscribes: ${rate.name}`}>
            <Link to={`/plans/${plan.id}/rates/${rate.id}/subscribers`}>{rate.subscribers}</Link>
          </TextLink>
        )}
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

/** What one rate will charge, and how it compares with each of the others. */
function ChosenRate({
  rate,
  compared,
}: {
  readonly rate: RateView;
  readonly compared: ComparedRate | undefined;
}) {
  const { businessDate } = useFrame();
  const compile = useLaw(rate.taxId);
  const { recurringStart } = rate.options;
  const terms = composeTerms(rate.terms as unknown as RateTerms, { starts: businessDate, recurringStart });
  return (
    <>
      <MarginHeading>{rate.name}</MarginHeading>
      <Text mb="2">{rate.says}</Text>
      <HowSold rate={rate} />
      {compared && <AgainstOthers compared={compared} />}
      <TermsPreview
        key={rate.id}
        terms={terms as unknown as Record<string, unknown>}
        today={businessDate}
        issueBefore={rate.options.issueDaysBefore}
        compile={compile}
      />
    </>
  );
}
