import { Box, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { MarkKind } from '../../../core/thread/thread.ts';
import type { CaseDetail, CaseMoment } from '../../../server/recovery/messages.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { sayShare } from '../../parts/sayShare.ts';
import { Mark } from '../../parts/ThreadLine.tsx';
import { CaseActions } from './CaseActions.tsx';

/** One case: what is owed and why, what can be done, and its line of time, past and to come. */
export function ChosenCase({ found }: { readonly found: CaseDetail }) {
  const { owed, currency, invoices } = found;
  return (
    <>
      <MarginHeading>
        <TextLink asChild>
          <Link to={`/customers/${found.customerId}`}>{found.customer}</Link>
        </TextLink>
      </MarginHeading>
      <Text>
        {owed === '0' ? 'Nothing is open.' : `${sayAmount(BigInt(owed), currency)} is open: ${found.why}.`}{' '}
        {invoices.map(({ id, number }, i) => (
          <span key={id}>
            {i > 0 && ', '}
            <TextLink asChild color="kelp.fg">
              <Link to={`/invoices/${id}`}>Invoice {number}</Link>
            </TextLink>
          </span>
        ))}
      </Text>
      <Text mt="1">{found.says}</Text>
      {found.chance !== null && (
        <Text mt="1">
          It is {sayShare(found.chance)} likely to be recovered before its ladder ends,{' '}
          <TextLink asChild color="kelp.fg">
            <Link to="/ladders/what-if">as things went in the past</Link>
          </TextLink>
          .
        </Text>
      )}
      {found.serviceStoppedOn !== null && (
        <Text mt="1" color="paused">
          The service is stopped since {sayDate(found.serviceStoppedOn)}, until it is paid.
        </Text>
      )}
      {found.assigned !== null && <Text mt="1">{found.assigned} looks after it.</Text>}
      <ForWriters>
        <CaseActions found={found} />
      </ForWriters>
      <MarginHeading>Line of time</MarginHeading>
      <Text color="muted" mb="1">
        {found.ladder}
        {found.hasNewer && found.state === 'open' ? ' (there is a newer version)' : ''}
      </Text>
      <Box as="ol" listStyleType="none" p="0">
        {found.moments.map((moment, i) => (
          <Moment key={i} of={moment} />
        ))}
      </Box>
      <Flex mt="4" gap="4">
        <TextLink asChild color="kelp.fg" fontWeight="600">
          <Link to={`/subscriptions/${found.subscriptionId}`}>Open the subscription</Link>
        </TextLink>
      </Flex>
    </>
  );
}

/** The marks of a thread, where a moment is one of its kinds. */
const MARKS: Partial<Readonly<Record<CaseMoment['kind'], MarkKind>>> = {
  collected: 'collected',
  declined: 'declined',
  'under way': 'planned',
  letter: 'notice',
  rung: 'retry',
  closed: 'end',
};

/** Shape says what it is, as on a thread; whatever else happened is a ring. */
function Sign({ of }: { readonly of: CaseMoment }) {
  const kind = of.isToCome && of.kind !== 'closed' ? 'planned' : MARKS[of.kind];
  return (
    <svg width="14" height="20" viewBox="-7 -10 14 20" aria-hidden>
      {kind ? (
        <Mark kind={kind} />
      ) : (
        <circle r="3" fill="none" stroke="var(--chakra-colors-muted)" strokeWidth="1.4" />
      )}
    </svg>
  );
}

function Moment({ of }: { readonly of: CaseMoment }) {
  const said = of.kind === 'call' ? `Call: ${of.says}` : of.says;
  return (
    <Box
      as="li"
      display="grid"
      gridTemplateColumns="18px 1fr"
      gap="2"
      py="1"
      borderTopWidth="1px"
      borderColor="lines"
      color={of.isToCome ? 'muted' : 'ink'}
    >
      <Sign of={of} />
      <Box minW="0" overflowWrap="anywhere">
        <Text fontSize="12.5px" color="muted">
          {sayDate(of.on)}
          {of.isToCome ? ', to come' : ''}
          {of.by === '' ? '' : `, ${of.by}`}
        </Text>
        {of.to === null ? (
          <Text>{said}</Text>
        ) : (
          <TextLink asChild>
            <Link to={of.to}>{said}</Link>
          </TextLink>
        )}
        {of.beside !== '' && (
          <Text fontSize="12.5px" color="muted">
            {of.beside}
          </Text>
        )}
      </Box>
    </Box>
  );
}
