import { Box, Button, Flex, Link as TextLink, RadioGroup, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { parseDay } from '../../../core/dates/day.ts';
import { sayDayMonthYear } from '../../../core/words/date.ts';
import type { PlanView, RateSubscriber, RateView, RateVersionView } from '../../../server/plans/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { DateField } from '../../parts/DateField.tsx';
import { ListPage } from '../../parts/list/ListPage.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { QuantityField } from '../../parts/QuantityField.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { MoveEffect } from './MoveEffect.tsx';

/** Who subscribes to a rate, on which version, and moving those on earlier ones, also long after it was changed. */
export function RateSubscribersPage() {
  const { id = '', rateId = '' } = useParams();
  const navigate = useNavigate();
  const { role } = useFrame();
  const { data: plan, error } = useAnswer<PlanView>(`/api/plans/${id}`);
  const { data: versions } = useAnswer<RateVersionView[]>(`/api/rates/${rateId}/versions`);
  if (error) return <PageAndMargin title="There is no such plan">{error.message}</PageAndMargin>;
  if (!plan || !versions) return <PageLoading title="Who subscribes" shape="rows" />;
  const rate = plan.rates.find((one) => one.id === rateId);
  if (!rate) return <PageAndMargin title="There is no such rate">It is not of this plan.</PageAndMargin>;
  return (
    <PageAndMargin
      title={`${plan.name}, ${rate.name}: who subscribes`}
      action={
        <TextLink asChild color="kelp.fg">
          <Link to={`/plans/${id}`}>The plan</Link>
        </TextLink>
      }
      marginLabel="Moving them"
      margin={role !== 'reader' && rate.behind > 0 && <MoveThem key={rate.version} rate={rate} />}
    >
      <Text color="muted" mb="3">
        {rate.behind === 0
          ? `Version ${rate.version} is the newest. Nobody is on an earlier one who is not to move.`
          : `Version ${rate.version} is the newest; ${rate.behind === 1 ? 'one is' : `${rate.behind} are`} on an earlier one.`}
      </Text>
      <ListPage<RateSubscriber>
        path={`/api/rates/${rateId}/subscribers`}
        label="subscribers"
        states={versions.map(({ version }) => `version ${version}`)}
        chosen={null}
        onChoose={(row) => void navigate(`/subscriptions/${row.id}`)}
        empty={<Text>Nobody subscribes to this rate.</Text>}
        columns={[
          { heading: 'Customer', sort: 'customer', cell: (row) => row.customer },
          { heading: 'Version', sort: 'version', width: '90px', right: true, cell: (row) => row.version },
          { heading: 'State', width: '120px', cell: (row) => <StateMark state={row.state} /> },
          { heading: 'Since', sort: 'since', width: '120px', cell: (row) => sayDayMonthYear(row.since) },
          {
            heading: 'Moves',
            sort: 'moves',
            width: '210px',
            cell: (row) =>
              row.movesOn === null ? '' : `to version ${row.movesTo} on ${sayDayMonthYear(row.movesOn)}`,
          },
        ]}
      />
    </PageAndMargin>
  );
}

const WHEN = { renewal: 'at their next renewal', date: 'on a date' } as const;

/** Moves everybody on an earlier version to the newest, with notice. */
function MoveThem({ rate }: { readonly rate: RateView }) {
  const { businessDate } = useFrame();
  const acting = useAct();
  const [kind, setKind] = useState<keyof typeof WHEN>('renewal');
  const [date, setDate] = useState('');
  const [days, setDays] = useState('30');
  const isGood = /^\d{1,3}$/.test(days) && (kind === 'renewal' || parseDay(date) !== null);
  const letterDays = Number(days);
  const subscribers = kind === 'renewal' ? { kind, letterDays } : { kind, letterDays, date, stub: 'prorate' };
  const message = { version: rate.version, subscribers };
  return (
    <>
      <MarginHeading>
        {rate.behind === 1
          ? 'Move the one on an earlier version'
          : `Move the ${rate.behind} on earlier versions`}
      </MarginHeading>
      <Text mb="2">to version {rate.version}:</Text>
      <RadioGroup.Root
        aria-label="When they move"
        colorPalette="kelp"
        value={kind}
        onValueChange={({ value }) => setKind(value === 'date' ? 'date' : 'renewal')}
      >
        <Flex gap="5" wrap="wrap">
          {(['renewal', 'date'] as const).map((one) => (
            <RadioGroup.Item key={one} value={one}>
              <RadioGroup.ItemHiddenInput />
              <RadioGroup.ItemIndicator />
              <RadioGroup.ItemText>{WHEN[one]}</RadioGroup.ItemText>
            </RadioGroup.Item>
          ))}
        </Flex>
      </RadioGroup.Root>
      <Flex direction="column" gap="2" mt="2">
        {kind === 'date' && (
          <DateField
            label="On"
            min={businessDate}
            value={date}
            error={acting.problem?.at('/subscribers/date')}
            onChange={({ target }) => setDate(target.value)}
          />
        )}
        <QuantityField
          label="With a letter so many days before"
          most={365}
          value={days}
          onChange={({ target }) => setDays(target.value)}
        />
        {isGood && <MoveEffect path={`/api/rates/${rate.id}/moves/effect`} message={message} />}
      </Flex>
      <Box mt="3">
        <Button
          size="sm"
          colorPalette="kelp"
          disabled={!isGood}
          loading={acting.busy}
          onClick={() =>
            void acting.act(
              () => post(`/api/rates/${rate.id}/moves`, message),
              'They move, each with a letter.',
            )
          }
        >
          Move them
        </Button>
        <Outcome of={acting} />
      </Box>
    </>
  );
}
