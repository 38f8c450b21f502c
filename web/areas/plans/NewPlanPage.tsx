import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { useCallback, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { newPlanSchema, type NewPlan, type PlanView } from '../../../server/plans/messages.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useLaw } from '../../api/useLaw.ts';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Confirm } from '../../parts/Confirm.tsx';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { useKeptDraft } from '../../parts/keptDraft.ts';
import { useDraftForm } from '../../parts/useDraftForm.ts';
import { NO_FACTS, PlanFields, type PlanFacts } from './PlanFields.tsx';
import { changed, newDraft, type DraftChange, type RateDraft } from './rate/draft.ts';
import { issueDaysOf, optionsOf } from './rate/optionsDraft.ts';
import { RateFields } from './rate/RateFields.tsx';
import { RateMargin } from './rate/RateMargin.tsx';
import { useTaxOfDraft } from './rate/taxOfDraft.ts';
import { taxChoiceOf } from './rate/taxChoice.ts';
import { computeRate, useRate } from './rate/useRate.ts';
import { STARTING_POINTS } from './startingPoints.ts';

/** Makes a plan with its first rate. The margin shows, while one types, what the rate will charge and when. */
export function NewPlanPage() {
  const { data: setUp } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  return setUp ? (
    <NewPlan termDays={setUp.paymentTermDays} />
  ) : (
    <PageLoading title="Make a plan" shape="form" />
  );
}

function NewPlan({ termDays }: { readonly termDays: number }) {
  const { businessDate, homeCurrency } = useFrame();
  const navigate = useNavigate();
  const initial = useMemo(
    () => ({ facts: NO_FACTS, draft: newDraft(homeCurrency, termDays) }),
    [homeCurrency, termDays],
  );
  const {
    draft: typed,
    setDraft: setTyped,
    kept,
  } = useKeptDraft<{ facts: PlanFacts; draft: RateDraft }>('plan', initial);
  const { facts, draft } = typed;
  const setFacts = (to: PlanFacts) => setTyped((now) => ({ ...now, facts: to }));
  const [starts, setStarts] = useState(businessDate);
  const onDraft = useCallback<DraftChange>(
    (to) => setTyped((now) => ({ ...now, draft: changed(now.draft, to) })),
    [setTyped],
  );
  const tax = useTaxOfDraft(draft);
  const taxChoice = taxChoiceOf(draft.tax);
  const compile = useLaw(
    taxChoice.kind === 'tax' ? taxChoice.id : taxChoice.kind === 'none' ? null : undefined,
  );
  const rate = useRate(draft, starts, compile);
  const planOf = (terms: NewPlan['rate']['terms']): NewPlan => ({
    ...facts,
    statementText: facts.statementText === '' ? null : facts.statementText,
    rate: { name: draft.name, terms, taxChoice, options: optionsOf(draft.options) },
  });
  const shape = newPlanSchema.safeParse({ ...planOf({}), rate: { name: 'x', terms: {} } });
  const faults = new Map(
    shape.success ? [] : shape.error.issues.map(({ path, message }) => [path.join('/'), message]),
  );
  const isNameless = facts.name.trim() === '';
  const { data: others } = useAnswer<PlanView[]>('/api/plans');
  const namesake = others?.some(({ name }) => name.trim().toLowerCase() === facts.name.trim().toLowerCase());
  const form = useDraftForm({
    message: planOf(rate.terms),
    missing: [...(isNameless ? [{ field: 'name', says: 'the name of the plan' }] : []), ...rate.missing],
    faults: new Map([...faults].filter(([field]) => field !== 'name' || !isNameless)),
    fieldOf: (pointer) => pointer.slice(1),
    send: async () => {
      // What is computed may lag a moment behind the newest key.
      const newest = computeRate(draft, starts, compile);
      if (newest.missing.length > 0) return;
      const { id } = await post<{ id: string }>('/api/plans', planOf(newest.terms));
      kept.forget();
      await navigate(`/plans/${id}`);
    },
  });

  return (
    <PageAndMargin
      title="Make a plan"
      onSubmit={form.confirm}
      arriveAt="field"
      margin={
        <>
          <RateMargin
            rate={rate}
            tax={tax}
            isWhole={draft.options.invoicing === 'whole' && draft.ends === 'after'}
            issueBefore={issueDaysOf(draft.options)}
            currency={draft.currency}
            starts={starts}
            today={businessDate}
            compile={compile}
            onStarts={setStarts}
          />
          <Confirm of={form} label="Make the plan">
            {namesake && (
              <Box role="note" borderLeftWidth="3px" borderColor="trial" pl="3" mb="3">
                There is a plan of this name already.
              </Box>
            )}
          </Confirm>
        </>
      }
    >
      <KeptNote kept={kept} />
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
                  setTyped((now) => ({
                    draft: point.rate(homeCurrency, termDays),
                    facts: { ...now.facts, kind: point.kind },
                  }));
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
            form.faultAt(name) ?? (name === 'name' && isNameless && form.tried ? faults.get(name) : undefined)
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
