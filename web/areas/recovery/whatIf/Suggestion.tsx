import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { WorkingDays } from '../../../../core/dates/workingDay.ts';
import { EVERY_DAY } from '../../../../core/dates/workingDay.ts';
import { MOST_DAYS, USUAL_MANNER, type LadderPolicy, type Rung } from '../../../../core/recovery/ladder.ts';
import { LETTERS_APART, MOST_LETTERS, type Suggested } from '../../../../core/whatIf/suggest.ts';
import type { LadderRow } from '../../../../server/recovery/ladderMessages.ts';
import { ForWriters } from '../../../frame/ForWriters.tsx';
import { AmountField } from '../../../parts/AmountField.tsx';
import { minorOf } from '../../../parts/minorOf.ts';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { sayRungShort } from '../../../parts/sayRung.ts';
import type { SuggestedState } from '../LadderPage.tsx';
import type { WhatIf } from './useWhatIf.ts';
import { sayMoney } from './whatIfWords.ts';

interface Props {
  readonly whatIf: WhatIf;
  readonly calendar: WorkingDays;
  readonly currency: string;
  readonly ladders: readonly LadderRow[];
  readonly onFound: (policy: LadderPolicy) => void;
}

/** No ladder that is looked for ends sooner: its letters would not fit. */
const SOONEST = 7;
const LATEST = 60;

/** Looks for the ladder that brings most for what a letter and a retry are said to be worth, and explains it. */
export function Suggestion({ whatIf, calendar, currency, ladders, onFound }: Props) {
  const usual = ladders.find(({ isDefault }) => isDefault)?.policy;
  const [endsOn, setEndsOn] = useState(
    String(Math.min(Math.max(usual?.finalAfterDays ?? 14, SOONEST), LATEST)),
  );
  const [letterWorth, setLetterWorth] = useState('1.00');
  const [retryWorth, setRetryWorth] = useState('0.20');
  const [found, setFound] = useState<Suggested | null>(null);
  const [busy, setBusy] = useState(false);
  const letter = minorOf(letterWorth, currency);
  const retry = minorOf(retryWorth, currency);
  const days = Number(endsOn);
  const isGood = letter !== null && retry !== null && days >= SOONEST && days <= LATEST;
  const look = async () => {
    if (letter === null || retry === null || !isGood) return;
    setBusy(true);
    try {
      const manner = usual?.manner ?? USUAL_MANNER;
      const suggested = await whatIf.worker.suggest(
        {
          ...{ endsOn: days, letterWorth: Number(letter), retryWorth: Number(retry) },
          finalAction: usual?.finalAction ?? 'lapse',
        },
        { manner, calendar: manner.workingDays ? calendar : EVERY_DAY },
      );
      setFound(suggested);
      onFound(suggested.policy);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Box as="section" aria-label="A suggested ladder" mb="7">
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="1">
        A suggested ladder
      </Text>
      <Text color="muted" mb="3" maxW="760px">
        Looks for the ladder that is expected to bring most, less what its letters and retries are worth to
        you: a letter that annoys more than it brings is left out. A letter is written on the first day and{' '}
        {LETTERS_APART} days before the end, and at most {MOST_LETTERS - 2} between them, {LETTERS_APART} days
        apart.
      </Text>
      <Flex gap="4" align="flex-start" wrap="wrap">
        <Box w="130px">
          <QuantityField
            label="Ends on day"
            least={SOONEST}
            most={Math.min(LATEST, MOST_DAYS)}
            value={endsOn}
            onChange={(event) => setEndsOn(event.target.value)}
          />
        </Box>
        <Box w="190px">
          <AmountField
            label="A letter brings at least"
            currency={currency}
            value={letterWorth}
            error={letter === null ? 'Write an amount.' : undefined}
            onChange={(event) => setLetterWorth(event.target.value)}
          />
        </Box>
        <Box w="190px">
          <AmountField
            label="A retry brings at least"
            currency={currency}
            value={retryWorth}
            error={retry === null ? 'Write an amount.' : undefined}
            onChange={(event) => setRetryWorth(event.target.value)}
          />
        </Box>
        <Button
          mt="6"
          size="sm"
          variant="outline"
          loading={busy}
          disabled={!isGood}
          onClick={() => void look()}
        >
          Look for one
        </Button>
      </Flex>
      {found && <Explained found={found} currency={currency} />}
    </Box>
  );
}

function Explained({ found, currency }: { readonly found: Suggested; readonly currency: string }) {
  const navigate = useNavigate();
  const { policy, rungs, worth, weighed } = found;
  const make = () => navigate('/ladders/new', { state: { suggested: policy } satisfies SuggestedState });
  return (
    <Box mt="3" maxW="760px" role="status">
      <Text>
        Of {weighed} ladders that were weighed, this one is expected to bring{' '}
        {sayMoney(worth.money, currency)} {currency} of the past declines, with{' '}
        {Math.round(worth.retries).toLocaleString('en')} retries and{' '}
        {Math.round(worth.letters).toLocaleString('en')} letters. It ends on day {policy.finalAfterDays}.
        {policy.manner.payDays.length > 0 &&
          ` Retries for want of money wait for the ${sayDates(policy.manner.payDays)} of the month where that is near.`}
      </Text>
      <Box as="table" w="full" fontSize="13px" mt="2">
        <Box as="caption" srOnly>
          The rungs of the suggested ladder, and what each brings
        </Box>
        <thead>
          <tr>
            {[
              'Day',
              'Does',
              `Without its retry, ${currency} less`,
              `Without its letter, ${currency} less`,
            ].map((heading, i) => (
              <Box as="th" key={heading} fontWeight="500" pb="1" textAlign={i < 2 ? 'start' : 'end'}>
                {heading}
              </Box>
            ))}
          </tr>
        </thead>
        <tbody>
          {policy.rungs.map((rung, i) => (
            <RungRow key={rung.afterDays} rung={rung} brings={rungs[i]} currency={currency} />
          ))}
        </tbody>
      </Box>
      <ForWriters>
        <Button mt="3" size="sm" colorPalette="kelp" onClick={() => void make()}>
          Make this ladder …
        </Button>
      </ForWriters>
    </Box>
  );
}

function RungRow(props: {
  readonly rung: Rung;
  readonly brings: Suggested['rungs'][number] | undefined;
  readonly currency: string;
}) {
  const { rung, brings, currency } = props;
  const say = (minor: number | null | undefined) =>
    minor === null || minor === undefined ? '' : sayMoney(minor, currency);
  return (
    <Box as="tr" borderTopWidth="1px" borderColor="lines">
      <Box as="th" {...{ scope: 'row' }} fontWeight="400" textAlign="start" py="1">
        {rung.afterDays}
      </Box>
      <td>{sayRungShort(rung)}</td>
      <Box as="td" textAlign="end" fontVariantNumeric="tabular-nums">
        {say(brings?.retryBrings)}
      </Box>
      <Box as="td" textAlign="end" fontVariantNumeric="tabular-nums">
        {say(brings?.letterBrings)}
      </Box>
    </Box>
  );
}

const sayDates = (dates: readonly number[]) =>
  new Intl.ListFormat('en-GB', { type: 'disjunction' }).format(
    dates.map((date) => (date === 31 ? 'last day' : ordinal(date))),
  );

function ordinal(n: number): string {
  const forms = { one: 'st', two: 'nd', few: 'rd', other: 'th' } as const;
  const form = new Intl.PluralRules('en-GB', { type: 'ordinal' }).select(n);
  return `${n}${forms[form as keyof typeof forms] ?? 'th'}`;
}
