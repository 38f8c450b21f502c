import { Box, Button, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import { composeTerms, type RateTerms } from '../../../core/offer/composeTerms.ts';
import type { PlanView } from '../../../server/plans/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useLaw } from '../../api/useLaw.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { ShownText } from '../../parts/ShownText.tsx';
import { TermsPreview } from '../../parts/TermsPreview.tsx';

/** A plan beside the list of them: what it says, what its rates cost, and what its first comes to. */
export default function ChosenPlan({ id }: { readonly id: string }) {
  const { businessDate } = useFrame();
  const { data: plan, error } = useAnswer<PlanView>(`/api/plans/${id}`);
  const rate = plan?.rates.find(({ archivedOn }) => archivedOn === null) ?? plan?.rates[0];
  const compile = useLaw(rate?.taxId);
  if (error) return <Text>{error.message}</Text>;
  if (!plan) return null;
  return (
    <>
      <MarginHeading>{plan.name}</MarginHeading>
      {plan.notSold && (
        <Text color="declined" mb="2">
          It cannot be sold now: {plan.notSold}.
        </Text>
      )}
      <Box color="muted" mb="3">
        <ShownText html={plan.description} />
      </Box>
      <Button asChild size="xs" variant="outline" mb="4">
        <Link to={`/plans/${plan.id}`}>Open the plan</Link>
      </Button>
      {plan.rates.map((one) => (
        <Text key={one.id} mb="1" color={one.archivedOn ? 'muted' : undefined}>
          <b>{one.name}</b>: {one.says}
          {one.archivedOn ? ' (archived)' : ''}
        </Text>
      ))}
      {rate && (
        <Box mt="4">
          <TermsPreview
            key={rate.id}
            terms={
              composeTerms(rate.terms as unknown as RateTerms, {
                starts: businessDate,
                recurringStart: rate.options.recurringStart,
              }) as unknown as Record<string, unknown>
            }
            today={businessDate}
            issueBefore={rate.options.issueDaysBefore}
            compile={compile}
          />
        </Box>
      )}
    </>
  );
}
