import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { useCallback, useState } from 'react';
import { useNavigate } from 'react-router';
import { newPlanSchema, type NewPlan } from '../../../server/plans/messages.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { useLaw } from '../../api/useLaw.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { NO_FACTS, PlanFields, type PlanFacts } from './PlanFields.tsx';
import { changed, newDraft, type DraftChange, type RateDraft } from './rate/draft.ts';
import { optionsOf } from './rate/optionsDraft.ts';
import { RateFields } from './rate/RateFields.tsx';
import { RateMargin } from './rate/RateMargin.tsx';
import { useTaxOfDraft } from './rate/taxOfDraft.ts';
import { taxChoiceOf } from './rate/taxChoice.ts';
import { computeRate, useRate } from './rate/useRate.ts';
import { STARTING_POINTS } from './startingPoints.ts';

/** Makes a plan with its first rate. The margin shows, while one types, what the rate will charge and when. */
export function NewPlanPage() {
  const { data: setUp } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  return setUp ? <NewPlan termDays={setUp.paymentTermDays} /> : null;
}

function NewPlan({ termDays }: { readonly termDays: number }) {
  const { businessDate, homeCurrency } = useFrame();
  const navigate = useNavigate();
  const acting = useAct();
  const [facts, setFacts] = useState<PlanFacts>(NO_FACTS);
  const [draft, setDraft] = useState<RateDraft>(() => newDraft(homeCurrency, termDays));
  const [starts, setStarts] = useState(businessDate);
  const [tried, setTried] = useState(false);
  const onDraft = useCallback<DraftChange>((to) => setDraft((now) => changed(now, to)), []);
  const tax = useTaxOfDraft(draft);
  const taxChoice = taxChoiceOf(draft.tax);
  const compile = useLaw(
    taxChoice.kind === 'tax' ? taxChoice.id : taxChoice.kind === 'none' ? null : undefined,
  );
  const rate = useRate(draft, starts, compile);
  const missing = [...(facts.name.trim() === '' ? ['the name of the plan'] : []), ...rate.missing];

  const save = async () => {
    setTried(true);
    const newest = computeRate(draft, starts, compile);
    const plan: NewPlan = {
      ...facts,
      statementText: facts.statementText === '' ? null : facts.statementText,
      rate: { name: draft.name, terms: newest.terms, taxChoice, options: optionsOf(draft.options) },
    };
    const parsed = newPlanSchema.safeParse(plan);
    if (!parsed.success || newest.missing.length > 0) return;
    let id = '';
    const made = await acting.act(async () => {
      ({ id } = await post<{ id: string }>('/api/plans', plan));
    });
    if (made) await navigate(`/plans/${id}`);
  };
  const typed = newPlanSchema.safeParse({
    ...facts,
    statementText: facts.statementText || null,
    rate: { name: 'x', terms: {} },
  });
  const faults = new Map(
    typed.success ? [] : typed.error.issues.map(({ path, message }) => [path.join('/'), message]),
  );

  return (
    <PageAndMargin
      title="Make a plan"
      margin={
        <>
          <RateMargin
            rate={rate}
            tax={tax}
            currency={draft.currency}
            starts={starts}
            today={businessDate}
            compile={compile}
            onStarts={setStarts}
          />
          <Box mt="5" borderTopWidth="1px" borderColor="lines" pt="4">
            <Text mb="3">
              {missing.length > 0 ? `Still missing: ${missing.join(', ')}.` : 'Nothing is missing.'}
            </Text>
            <Button colorPalette="kelp" loading={acting.busy} onClick={() => void save()}>
              Make the plan
            </Button>
            <Outcome of={acting} />
          </Box>
        </>
      }
    >
      <Grid gap="5" maxW="760px">
        <Box>
          <Text color="muted" mb="2">
            Begin from an example, or from nothing:
          </Text>
          <Flex gap="2" wrap="wrap">
            {Object.entries(STARTING_POINTS).map(([key, point]) => (
              <Button
                key={key}
                size="xs"
                variant="outline"
                onClick={() => {
                  setDraft(point.rate(homeCurrency, termDays));
                  setFacts({ ...facts, kind: point.kind });
                }}
              >
                {point.says}
              </Button>
            ))}
          </Flex>
        </Box>
        <PlanFields
          facts={facts}
          faultAt={(name) =>
            (tried || name !== 'name' ? faults.get(name) : undefined) ?? acting.problem?.at(`/${name}`)
          }
          onChange={(to) => setFacts({ ...facts, ...to })}
        />
        <Text as="h2" fontFamily="heading" fontSize="18px" mt="2">
          Its rate
        </Text>
        <RateFields
          compile={compile}
          draft={draft}
          starts={starts}
          faultAt={rate.faultAt}
          onChange={onDraft}
        />
      </Grid>
    </PageAndMargin>
  );
}
