import { Box, Button, Flex, Grid, NativeSelect, Text, Textarea } from '@chakra-ui/react';
import { zodResolver } from '@hookform/resolvers/zod';
import { useState } from 'react';
import { useForm, useWatch } from 'react-hook-form';
import { useNavigate } from 'react-router';
import { useSWRConfig } from 'swr';
import { z } from 'zod';
import { CURRENCIES, exponentOf } from '../../../core/money/currency.ts';
import { decimalsOf } from '../../../core/money/decimal.ts';
import { checkTerms } from '../../../core/terms/check.ts';
import { sayRate, type SayableTerms } from '../../../core/words/sayRate.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import type { NewPlan } from '../../../server/plans/messages.ts';
import { useLaw } from '../../api/useLaw.ts';
import { post, Problem } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { TermsPreview } from '../../parts/TermsPreview.tsx';
import { LabelledField, TextField } from '../../parts/TextField.tsx';

const UNITS = { D: 'days', W: 'weeks', M: 'months', Y: 'years' } as const;

const formSchema = z
  .object({
    name: z.string().trim().min(1, 'Give the plan a name.').max(120, 'A name has at most 120 characters.'),
    description: z.string().max(5000, 'A description has at most 5,000 characters.'),
    rateName: z
      .string()
      .trim()
      .min(1, 'Give the rate a name, such as Monthly.')
      .max(120, 'A name has at most 120 characters.'),
    amount: z.string().trim(),
    currency: z.string(),
    every: z.string().regex(/^[1-9]\d{0,2}$/, 'Give a whole number from 1 to 999.'),
    unit: z.enum(['D', 'W', 'M', 'Y']),
    trialDays: z
      .string()
      .regex(/^(0|[1-9]\d{0,2})?$/, 'Give a whole number of days, at most 999, or leave it empty.'),
  })
  .superRefine(({ amount, currency }, context) => {
    const allowed = exponentOf(currency) ?? 2;
    const decimals = decimalsOf(amount);
    if (decimals !== null && decimals <= allowed) return;
    const example = allowed === 0 ? '1200' : `12.${'0'.repeat(allowed)}`;
    context.addIssue({ code: 'custom', path: ['amount'], message: `Give an amount such as ${example}.` });
  });
type Form = z.infer<typeof formSchema>;

/** Makes a plan with one rate. The margin shows, while one types, what the rate will charge and when. */
export function NewPlanPage() {
  const { businessDate, homeCurrency } = useFrame();
  const navigate = useNavigate();
  const { mutate } = useSWRConfig();
  const [says, setSays] = useState('');
  const form = useForm<Form>({
    resolver: zodResolver(formSchema),
    mode: 'onTouched',
    defaultValues: {
      name: '',
      description: '',
      rateName: 'Monthly',
      amount: '',
      currency: homeCurrency,
      every: '1',
      unit: 'M',
      trialDays: '',
    },
  });
  const compile = useLaw(undefined);
  const { data: setUp } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const term = setUp && setUp.paymentTermDays > 0 ? { terms: `P${setUp.paymentTermDays}D` } : {};
  const { register, formState } = form;
  const { errors } = formState;
  const typed = useWatch({ control: form.control }) as Form;
  const terms = { ...termsOf(typed), ...term };
  const sample = { ...terms, starts: businessDate };
  const missing = [
    typed.name.trim() === '' ? 'the name of the plan' : '',
    typed.amount.trim() === '' ? 'the amount' : '',
  ].filter(Boolean);

  const save = form.handleSubmit(async (good) => {
    setSays('');
    const plan: NewPlan = {
      name: good.name,
      description: good.description,
      rate: { name: good.rateName, terms: { ...termsOf(good), ...term } },
    };
    try {
      const { id } = await post<{ id: string }>('/api/plans', plan);
      await mutate((key) => typeof key === 'string' && key.startsWith('/api/plans'));
      await navigate(`/plans?plan=${id}`);
    } catch (error) {
      setSays(
        error instanceof Problem
          ? [error.message, ...error.faults.map(({ detail }) => detail)].join(' ')
          : 'The plan was not stored.',
      );
    }
  });

  return (
    <PageAndMargin
      title="Make a plan"
      margin={
        <>
          <MarginHeading>What it will charge</MarginHeading>
          {missing.length > 0 && <Text mb="3">Still missing: {missing.join(' and ')}.</Text>}
          {checkTerms(sample).ok && (
            <>
              <Text mb="3">
                {sayRate(terms as unknown as SayableTerms)}. For a customer who starts on the business day:
              </Text>
              <TermsPreview terms={sample} today={businessDate} compile={compile} />
            </>
          )}
          <Box mt="5">
            <Button type="submit" form="new-plan" colorPalette="kelp" loading={formState.isSubmitting}>
              Make the plan
            </Button>
            <Text role="alert" color="declined" mt="2">
              {says}
            </Text>
          </Box>
        </>
      }
    >
      <form id="new-plan" onSubmit={save} noValidate>
        <Grid gap="5" maxW="560px">
          <TextField
            label="Name"
            required
            maxLength={120}
            error={errors.name?.message}
            {...register('name')}
          />
          <LabelledField label="Description" error={errors.description?.message}>
            <Textarea size="sm" bg="page" rows={3} {...register('description')} />
          </LabelledField>
          <Text as="h2" fontFamily="heading" fontSize="16px" borderTopWidth="1px" borderColor="lines" pt="4">
            Its rate
          </Text>
          <TextField
            label="Name of the rate"
            required
            error={errors.rateName?.message}
            {...register('rateName')}
          />
          <Flex gap="3" align="flex-start">
            <TextField
              label="Amount"
              required
              inputMode="decimal"
              maxLength={20}
              error={errors.amount?.message}
              {...register('amount')}
            />
            <Box w="130px" flexShrink={0}>
              <LabelledField label="Currency">
                <NativeSelect.Root size="sm">
                  <NativeSelect.Field bg="page" {...register('currency')}>
                    {CURRENCIES.map((code) => (
                      <option key={code}>{code}</option>
                    ))}
                  </NativeSelect.Field>
                  <NativeSelect.Indicator />
                </NativeSelect.Root>
              </LabelledField>
            </Box>
          </Flex>
          <Flex gap="3" align="flex-start">
            <Box w="110px">
              <TextField
                label="Every"
                required
                inputMode="numeric"
                maxLength={3}
                error={errors.every?.message}
                {...register('every')}
              />
            </Box>
            <Box w="150px">
              <LabelledField label="Interval">
                <NativeSelect.Root size="sm">
                  <NativeSelect.Field bg="page" {...register('unit')}>
                    {Object.entries(UNITS).map(([unit, word]) => (
                      <option key={unit} value={unit}>
                        {word}
                      </option>
                    ))}
                  </NativeSelect.Field>
                  <NativeSelect.Indicator />
                </NativeSelect.Root>
              </LabelledField>
            </Box>
          </Flex>
          <Box w="272px">
            <TextField
              label="Free trial, in days"
              inputMode="numeric"
              maxLength={3}
              hint="Leave it empty for no trial."
              error={errors.trialDays?.message}
              {...register('trialDays')}
            />
          </Box>
        </Grid>
      </form>
    </PageAndMargin>
  );
}

/** The terms that the form stands for, good or not. */
function termsOf({ amount, currency, every, unit, trialDays, name }: Form): Record<string, unknown> {
  const days = Number(trialDays || 0);
  return {
    currency,
    lines: [{ name: name.trim() || undefined, price: { scheme: 'flat', amount: amount.trim() } }],
    interval: `P${every}${unit}`,
    ...(days > 0 ? { trial: { length: `P${days}D` } } : {}),
  };
}
