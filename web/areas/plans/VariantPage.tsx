import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { useCallback, useMemo, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { composeTerms, type RateTerms } from '../../../core/offer/composeTerms.ts';
import { faultsOfPrice } from '../../../core/offer/prices.ts';
import { variantSchema, type VariantView } from '../../../server/plans/choiceMessages.ts';
import type { PlanView, RateView } from '../../../server/plans/messages.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { useLaw } from '../../api/useLaw.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Conflict } from '../../parts/Conflict.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { TermsPreview } from '../../parts/TermsPreview.tsx';
import { AreaField, TextField } from '../../parts/TextField.tsx';
import { Archive } from '../../parts/Archive.tsx';
import { linesOf, OtherPrices, pricesDraftOf, pricesOf, type PricesDraft } from './rate/OtherPrices.tsx';
import { inFormWords } from '../../parts/formWords.ts';
import { Part } from './rate/Part.tsx';
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

function Editor({ plan, variant }: { readonly plan: PlanView; readonly variant: VariantView | null }) {
  const navigate = useNavigate();
  const acting = useAct();
  const rates = plan.rates.filter(
    ({ archivedOn, terms }) => archivedOn === null && linesOf(terms).length > 0,
  );
  const [name, setName] = useState(variant?.name ?? '');
  const [says, setSays] = useState(variant?.says ?? '');
  const [drafts, setDrafts] = useState<Drafts>(() =>
    Object.fromEntries(
      rates.map(({ id, terms }) => [id, pricesDraftOf(variant?.prices[id], linesOf(terms).length)]),
    ),
  );
  const [offered, setOffered] = useState<readonly string[]>(() =>
    rates.filter(({ id }) => variant === null || offersRate(variant, id)).map(({ id }) => id),
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
  const under = variant === null ? '' : '/value';
  const faultAt = (pointer: string) =>
    ofPrices.get(pointer) ?? ofShape.get(pointer) ?? acting.problem?.at(`${under}${pointer}`);
  const missing = [
    ...(name.trim() === '' ? ['the name'] : []),
    ...(offered.length === 0 ? ['a rate that it is had at'] : []),
    ...(ofPrices.size > 0 ? ['a price'] : []),
  ];
  const good = missing.length === 0 && parsed.success;
  const store = async (version: number) => {
    const done = await acting.act(() =>
      variant === null
        ? post(`/api/plans/${plan.id}/variants`, value)
        : put(`/api/variants/${variant.id}`, { version, value }),
    );
    if (done) await navigate(`/plans/${plan.id}`);
  };
  const theirs = acting.problem?.theirs;
  return (
    <PageAndMargin
      title={variant === null ? `${plan.name}: a new variant` : `${plan.name}: ${variant.name}`}
      margin={
        <>
          {soldAt[0] && <Beside rates={soldAt} drafts={drafts} />}
          <Box mt="5" borderTopWidth="1px" borderColor="lines" pt="4">
            <Text mb="3">
              {good ? 'Nothing is missing.' : `Still missing: ${missing.join(', ') || 'a price'}.`}
            </Text>
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
                onMine={() => void store(theirs.version)}
                onTheirs={() => void navigate(`/plans/${plan.id}`)}
              />
            )}
            <Button
              colorPalette="kelp"
              loading={acting.busy}
              disabled={!good}
              onClick={() => void store(variant?.version ?? 0)}
            >
              {variant === null ? 'Make the variant' : 'Store the variant'}
            </Button>
            <Outcome of={acting} />
          </Box>
        </>
      }
    >
      <Grid gap="5" maxW="760px">
        <Flex gap="3" align="flex-start">
          <Box w="240px">
            <TextField
              label="Name of the variant"
              required
              maxLength={80}
              placeholder="such as Large"
              value={name}
              error={faultAt('/name')}
              onChange={(event) => setName(event.target.value)}
            />
          </Box>
          <AreaField
            label="What customers read of it"
            rows={2}
            maxLength={500}
            value={says}
            error={faultAt('/says')}
            onChange={(event) => setSays(event.target.value)}
          />
        </Flex>
        {rates.length > 1 && (
          <Box role="group" aria-label="Had at these rates">
            <Text fontWeight="500">Had at these rates</Text>
            <Flex gap="5" wrap="wrap">
              {rates.map((rate) => (
                <TickField
                  key={rate.id}
                  label={rate.name}
                  checked={offered.includes(rate.id)}
                  onChange={(on) =>
                    setOffered(on ? [...offered, rate.id] : offered.filter((id) => id !== rate.id))
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
  readonly onDrafts: React.Dispatch<React.SetStateAction<Drafts>>;
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
        compile={compile}
      />
    </>
  );
}
