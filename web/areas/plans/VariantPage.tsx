import { Box, Flex, Grid, Text } from '@chakra-ui/react';
import { useCallback, useMemo } from 'react';
import { useNavigate, useParams } from 'react-router';
import { composeTerms, type RateTerms } from '../../../core/offer/composeTerms.ts';
import { faultsOfPrice } from '../../../core/offer/prices.ts';
import { variantSchema, type VariantView } from '../../../server/plans/choiceMessages.ts';
import type { PlanView, RateView } from '../../../server/plans/messages.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useLaw } from '../../api/useLaw.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Conflict } from '../../parts/Conflict.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { useKeptDraft } from '../../parts/keptDraft.ts';
import { useDraftForm } from '../../parts/useDraftForm.ts';
import { TermsPreview } from '../../parts/TermsPreview.tsx';
import { AreaField, TextField } from '../../parts/TextField.tsx';
import { Archive } from '../../parts/Archive.tsx';
import { linesOf, OtherPrices, pricesDraftOf, pricesOf, type PricesDraft } from './rate/OtherPrices.tsx';
import { inFormWords } from '../../parts/formWords.ts';
import { Part } from '../../parts/Part.tsx';
import { TickField } from '../../parts/TickField.tsx';
import { offersRate } from '../../../core/offer/variant.ts';

/** One of several that a plan comes in: it shares the plan's rates and differs where it has prices of its own. */
export function VariantPage() {
  const { id = '', variantId } = useParams();
  const { data: plan, error } = useAnswer<PlanView>(`/api/plans/${id}`);
  if (error) return <PageAndMargin title="There is no such plan">{error.message}</PageAndMargin>;
  if (!plan || plan.id !== id) return <PageLoading title="Variant" shape="form" />;
  const variant = plan.variants.find((one) => one.id === variantId);
  if (variantId !== undefined && !variant)
    return <PageAndMargin title="There is no such variant">It is not of this plan.</PageAndMargin>;
  return <Editor key={`${variantId}:${variant?.version}`} plan={plan} variant={variant ?? null} />;
}

type Drafts = Readonly<Record<string, PricesDraft>>;

interface VariantDraft {
  readonly name: string;
  readonly says: string;
  readonly drafts: Drafts;
  readonly offered: readonly string[];
}

function Editor({ plan, variant }: { readonly plan: PlanView; readonly variant: VariantView | null }) {
  const navigate = useNavigate();
  const rates = plan.rates.filter(
    ({ archivedOn, terms }) => archivedOn === null && linesOf(terms).length > 0,
  );
  const saved = useMemo<VariantDraft>(
    () => ({
      name: variant?.name ?? '',
      says: variant?.says ?? '',
      drafts: Object.fromEntries(
        rates.map(({ id, terms }) => [id, pricesDraftOf(variant?.prices[id], linesOf(terms).length)]),
      ),
      offered: rates.filter(({ id }) => variant === null || offersRate(variant, id)).map(({ id }) => id),
    }),
    // The rates are those of the plan, which is read once.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [variant, plan],
  );
  const keptAs = variant ? `variant:${variant.id}:${variant.version}` : `variant-of:${plan.id}`;
  const { draft, setDraft, kept } = useKeptDraft(keptAs, saved);
  const { name, says, drafts, offered } = draft;
  const change = (to: Partial<VariantDraft>) => setDraft((now) => ({ ...now, ...to }));
  const setDrafts = useCallback(
    (by: (now: Drafts) => Drafts) => setDraft((now) => ({ ...now, drafts: by(now.drafts) })),
    [setDraft],
  );
  const value = useMemo(
    () => valueOf({ name, says, drafts, offered, all: rates.length }),
    [name, says, drafts, offered, rates.length],
  );
  const parsed = variantSchema.safeParse(value);
  const ofShape = new Map(
    parsed.success ? [] : parsed.error.issues.map(({ path, message }) => [`/${path.join('/')}`, message]),
  );
  const ofPrices = new Map<string, string>(
    rates.flatMap(({ id, terms }) =>
      pricesOf(drafts[id] ?? []).flatMap((price, i) =>
        price === null
          ? []
          : faultsOfPrice(price, String(terms.currency))
              .map(inFormWords)
              .map(({ pointer, detail }) => [`/prices/${id}/${i}${pointer}`, detail] as const),
      ),
    ),
  );
  const soldAt = rates.filter(({ id }) => offered.includes(id));
  const form = useDraftForm({
    message: value,
    missing: [
      ...(name.trim() === '' ? [{ field: '/name', says: 'the name' }] : []),
      ...(offered.length === 0 ? [{ field: '/rates', says: 'a rate that it is had at' }] : []),
    ],
    faults: new Map([...ofShape, ...ofPrices].filter(([field]) => field !== '/name' || name.trim() !== '')),
    fieldOf: (pointer) => pointer.replace(/^\/value/, ''),
    send: async () => {
      if (variant === null) await post(`/api/plans/${plan.id}/variants`, value);
      else await put(`/api/variants/${variant.id}`, { version: theirs?.version ?? variant.version, value });
      kept.forget();
      await navigate(`/plans/${plan.id}`);
    },
  });
  const theirs = form.problem?.theirs;
  const faultAt = (field: string) =>
    form.faultAt(field) ??
    (form.tried && field === '/name' && name.trim() === '' ? 'Give it a name.' : undefined);
  return (
    <PageAndMargin
      title={variant === null ? `${plan.name}: a new variant` : `${plan.name}: ${variant.name}`}
      onSubmit={form.confirm}
      margin={
        <>
          {soldAt[0] && <Beside rates={soldAt} drafts={drafts} />}
          <Confirm of={form} label={variant === null ? 'Make the variant' : 'Store the variant'}>
            {variant !== null && variant.subscribers > 0 && (
              <Text mb="3" color="muted">
                {variant.subscribers === 1
                  ? 'The one who has it keeps'
                  : `The ${variant.subscribers} who have it keep`}{' '}
                what was agreed to.
              </Text>
            )}
            {theirs && (
              <Conflict
                mine={value}
                theirs={theirs.value as object}
                by={theirs.changedBy}
                onMine={() => void form.confirm()}
                onTheirs={() => (kept.forget(), void navigate(`/plans/${plan.id}`))}
              />
            )}
          </Confirm>
        </>
      }
    >
      <KeptNote kept={kept} />
      <Grid gap="5" maxW="760px">
        <Flex gap="3" align="flex-start">
          <Box w="240px">
            <TextField
              label="Name of the variant"
              field="/name"
              required
              maxLength={80}
              placeholder="such as Large"
              value={name}
              error={faultAt('/name')}
              onChange={(event) => change({ name: event.target.value })}
            />
          </Box>
          <AreaField
            label="What customers read of it"
            rows={2}
            maxLength={500}
            value={says}
            error={faultAt('/says')}
            onChange={(event) => change({ says: event.target.value })}
          />
        </Flex>
        {rates.length > 1 && (
          <Box role="group" aria-label="Had at these rates" data-field="/rates">
            <Text fontWeight="500">Had at these rates</Text>
            <Flex gap="5" wrap="wrap">
              {rates.map((rate) => (
                <TickField
                  key={rate.id}
                  label={rate.name}
                  checked={offered.includes(rate.id)}
                  onChange={(on) =>
                    change({
                      offered: on ? [...offered, rate.id] : offered.filter((id) => id !== rate.id),
                    })
                  }
                />
              ))}
            </Flex>
            <Text role="alert" color="declined">
              {offered.length === 0 ? 'Tick at least one.' : (faultAt('/rates') ?? '')}
            </Text>
          </Box>
        )}
        <Text color="muted">It shares everything with the plan but the prices that are ticked here.</Text>
        {soldAt.map((rate) => (
          <RatePrices
            key={rate.id}
            rate={rate}
            draft={drafts[rate.id] ?? []}
            faultAt={(pointer) => faultAt(`/prices/${rate.id}${pointer}`)}
            onDrafts={setDrafts}
          />
        ))}
      </Grid>
      {variant !== null && (
        <Archive
          what="variant"
          id={variant.id}
          name={variant.name}
          archived={variant.archivedOn !== null}
          subscribers={variant.subscribers}
        />
      )}
    </PageAndMargin>
  );
}

function valueOf(of: {
  readonly name: string;
  readonly says: string;
  readonly drafts: Drafts;
  readonly offered: readonly string[];
  readonly all: number;
}) {
  const prices = Object.entries(of.drafts).flatMap(([id, draft]) =>
    of.offered.includes(id) && draft.some((price) => price !== null) ? [[id, pricesOf(draft)] as const] : [],
  );
  return {
    name: of.name.trim(),
    says: of.says.trim(),
    prices: Object.fromEntries(prices),
    // All of them: rates that the plan gets later are had in it too.
    rates: of.offered.length === of.all ? [] : of.offered.toSorted(),
  };
}

function RatePrices(props: {
  readonly rate: RateView;
  readonly draft: PricesDraft;
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onDrafts: (by: (now: Drafts) => Drafts) => void;
}) {
  const { rate, draft, faultAt, onDrafts } = props;
  const { id } = rate;
  const onChange = useCallback(
    (change: (draft: PricesDraft) => PricesDraft) =>
      onDrafts((now) => ({ ...now, [id]: change(now[id] ?? []) })),
    [onDrafts, id],
  );
  return (
    <Part title={rate.name}>
      <OtherPrices
        lines={linesOf(rate.terms)}
        currency={String(rate.terms.currency)}
        draft={draft}
        faultAt={faultAt}
        onChange={onChange}
      />
    </Part>
  );
}

/** What the first rate with a price of its own comes to, for somebody who takes this variant. */
function Beside({ rates, drafts }: { readonly rates: readonly RateView[]; readonly drafts: Drafts }) {
  const { businessDate } = useFrame();
  const rate = rates.find(({ id }) => drafts[id]?.some((price) => price !== null)) ?? rates[0];
  const compile = useLaw(rate?.taxId);
  if (!rate) return null;
  const terms = composeTerms(rate.terms as unknown as RateTerms, {
    starts: businessDate,
    prices: [pricesOf(drafts[rate.id] ?? [])],
  });
  return (
    <>
      <MarginHeading>{rate.name}, in this variant</MarginHeading>
      <TermsPreview
        terms={terms as unknown as Record<string, unknown>}
        today={businessDate}
        issueBefore={rate.options.issueDaysBefore}
        compile={compile}
      />
    </>
  );
}
