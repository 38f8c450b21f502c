import { Box, Flex, Grid, Text } from '@chakra-ui/react';
import { useCallback, useMemo } from 'react';
import { useNavigate, useParams } from 'react-router';
import type { PlanView } from '../../../server/plans/messages.ts';
import {
  GIVEN_BY,
  type GivenBy,
  type GroupView,
  type RateCardView,
} from '../../../server/rateCards/messages.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { Conflict } from '../../parts/Conflict.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { useKeptDraft } from '../../parts/keptDraft.ts';
import { useDraftForm } from '../../parts/useDraftForm.ts';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { Part } from '../../parts/Part.tsx';
import { cardDraftOf, cardValueOf, faultsOfCard, NEW_CARD, type CardDraft } from './cardDraft.ts';
import { CardPrices } from './CardPrices.tsx';
import { YearBeside } from './YearBeside.tsx';
import { DateField } from '../../parts/DateField.tsx';

/** Makes or changes a rate card: who may have it, when, and its prices beside the ordinary ones. */
export function RateCardPage() {
  const { cardId } = useParams();
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const { data: card, error } = useAnswer<RateCardView>(
    cardId === undefined ? null : `/api/rate-cards/${cardId}`,
  );
  if (error) return <PageAndMargin title="There is no such rate card">{error.message}</PageAndMargin>;
  if (!plans || (cardId !== undefined && card?.id !== cardId))
    return <PageLoading title="Rate card" shape="form" />;
  return <Editor key={`${cardId}:${card?.version}`} plans={plans} card={card ?? null} />;
}

/** What a rate card cannot be without, in the order of its fields. */
const NEEDS = [
  ['/name', 'the name'],
  ['/group', 'the group of customers'],
  ['/code', 'the code'],
  ['/prices', 'a rate with a price'],
] as const;

/** Whether a fault is that nothing was given yet: it is missing, and not wrong. */
function isEmptyOf(draft: CardDraft, field: string): boolean {
  if (field === '/prices') return draft.prices.length === 0;
  const name = field.slice(1) as 'name' | 'group' | 'code';
  return NEEDS.some(([one]) => one === field) && (draft[name] ?? '').trim() === '';
}

function Editor({
  plans,
  card,
}: {
  readonly plans: readonly PlanView[];
  readonly card: RateCardView | null;
}) {
  const navigate = useNavigate();
  const saved = useMemo(() => (card ? cardDraftOf(card, plans) : NEW_CARD), [card, plans]);
  const { draft, setDraft, kept } = useKeptDraft<CardDraft>(
    card ? `rate-card:${card.id}:${card.version}` : 'rate-card',
    saved,
  );
  const set = (to: Partial<CardDraft>) => setDraft((now) => ({ ...now, ...to }));
  const onPrices = useCallback(
    (change: (prices: CardDraft['prices']) => CardDraft['prices']) =>
      setDraft((now) => ({ ...now, prices: change(now.prices) })),
    [setDraft],
  );
  const { data: groups } = useAnswer<GroupView[]>('/api/customer-groups');
  const faults = useMemo(() => faultsOfCard(draft, plans), [draft, plans]);
  const form = useDraftForm({
    message: cardValueOf(draft),
    missing: NEEDS.flatMap(([field, says]) =>
      faults.has(field) && isEmptyOf(draft, field) ? [{ field, says }] : [],
    ),
    faults: new Map([...faults].filter(([field]) => !isEmptyOf(draft, field))),
    fieldOf: (pointer) => pointer.replace(/^\/value/, ''),
    send: async (value) => {
      let id = card?.id ?? '';
      if (card === null) ({ id } = await post<{ id: string }>('/api/rate-cards', { value }));
      else await put(`/api/rate-cards/${card.id}`, { version: theirs?.version ?? card.version, value });
      kept.forget();
      await navigate(`/rate-cards?card=${id}`);
    },
  });
  const theirs = form.problem?.theirs;
  const faultAt = (pointer: string) =>
    form.faultAt(pointer) ?? (form.tried ? faults.get(pointer) : undefined);
  const bind = (name: 'name' | 'group' | 'code' | 'validFrom' | 'validTo') => ({
    value: draft[name],
    field: `/${name}`,
    error: faultAt(`/${name}`),
    onChange: (event: { target: { value: string } }) => set({ [name]: event.target.value }),
  });
  return (
    <PageAndMargin
      title={card === null ? 'Make a rate card' : `Rate card: ${card.name}`}
      onSubmit={form.confirm}
      margin={
        <>
          <MarginHeading>Beside the ordinary prices</MarginHeading>
          <YearBeside prices={draft.prices} plans={plans} />
          <Confirm of={form} label={card === null ? 'Make the rate card' : 'Store the rate card'}>
            <Text mb="3">
              {card !== null && card.taken > 0
                ? `The ${card.taken} who have it keep the prices they have. The new ones are for those who take it from now on.`
                : 'Whoever takes it keeps its prices, also after its last day.'}
            </Text>
            {theirs && (
              <Conflict
                mine={cardValueOf(draft)}
                theirs={theirs.value as object}
                by={theirs.changedBy}
                onMine={() => void form.confirm()}
                onTheirs={() => (kept.forget(), void navigate('/rate-cards'))}
              />
            )}
          </Confirm>
        </>
      }
    >
      <KeptNote kept={kept} />
      <Grid gap="5" maxW="760px">
        <Flex gap="3" align="flex-start" wrap="wrap">
          <Box w="260px">
            <TextField label="Name" required maxLength={80} {...bind('name')} />
          </Box>
          <Box w="240px">
            <SelectField
              label="Who may have it"
              value={draft.givenBy}
              onChange={(event) => set({ givenBy: event.target.value as GivenBy })}
            >
              {Object.entries(GIVEN_BY).map(([key, says]) => (
                <option key={key} value={key}>
                  {says}
                </option>
              ))}
            </SelectField>
          </Box>
          {draft.givenBy === 'group' && (
            <Box w="220px">
              <TextField
                label="Group"
                maxLength={80}
                list="groups"
                hint="Customers come into it under Customers, Edit."
                {...bind('group')}
              />
              <datalist id="groups">
                {groups?.map(({ name }) => (
                  <option key={name} value={name} />
                ))}
              </datalist>
            </Box>
          )}
          {draft.givenBy === 'code' && (
            <Box w="180px">
              <TextField label="Code" maxLength={40} {...bind('code')} />
            </Box>
          )}
        </Flex>
        <Flex gap="3" align="flex-start">
          <Box w="180px">
            <DateField label="Can be taken from" hint="Empty: at once." {...bind('validFrom')} />
          </Box>
          <Box w="180px">
            <DateField label="No longer from" hint="Empty: always." {...bind('validTo')} />
          </Box>
        </Flex>
        <Part title="Prices">
          <div data-field="/prices">
            <CardPrices plans={plans} prices={draft.prices} faultAt={faultAt} onPrices={onPrices} />
          </div>
        </Part>
      </Grid>
    </PageAndMargin>
  );
}
