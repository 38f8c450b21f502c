import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { useCallback, useMemo, useState } from 'react';
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
import { useAct } from '../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { Conflict } from '../../parts/Conflict.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { Part } from '../plans/rate/Part.tsx';
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

function Editor({
  plans,
  card,
}: {
  readonly plans: readonly PlanView[];
  readonly card: RateCardView | null;
}) {
  const navigate = useNavigate();
  const acting = useAct();
  const [draft, setDraft] = useState<CardDraft>(() => (card ? cardDraftOf(card, plans) : NEW_CARD));
  const [tried, setTried] = useState(card !== null);
  const set = (to: Partial<CardDraft>) => setDraft((now) => ({ ...now, ...to }));
  const onPrices = useCallback(
    (change: (prices: CardDraft['prices']) => CardDraft['prices']) =>
      setDraft((now) => ({ ...now, prices: change(now.prices) })),
    [],
  );
  const { data: groups } = useAnswer<GroupView[]>('/api/customer-groups');
  const faults = useMemo(() => faultsOfCard(draft, plans), [draft, plans]);
  const faultAt = (pointer: string) =>
    (tried || pointer.split('/').length > 2 ? faults.get(pointer) : undefined) ??
    acting.problem?.at(pointer) ??
    acting.problem?.at(`/value${pointer}`);
  const store = async (version: number) => {
    setTried(true);
    if (faults.size > 0) return;
    const value = cardValueOf(draft);
    let id = card?.id ?? '';
    const done = await acting.act(async () => {
      if (card === null) ({ id } = await post<{ id: string }>('/api/rate-cards', { value }));
      else await put(`/api/rate-cards/${card.id}`, { version, value });
    });
    if (done) await navigate(`/rate-cards?card=${id}`);
  };
  const bind = (name: 'name' | 'group' | 'code' | 'validFrom' | 'validTo') => ({
    value: draft[name],
    error: faultAt(`/${name}`),
    onChange: (event: { target: { value: string } }) => set({ [name]: event.target.value }),
  });
  const theirs = acting.problem?.theirs;
  return (
    <PageAndMargin
      title={card === null ? 'Make a rate card' : `Rate card: ${card.name}`}
      margin={
        <>
          <MarginHeading>Beside the ordinary prices</MarginHeading>
          <YearBeside prices={draft.prices} plans={plans} />
          <Box mt="5" borderTopWidth="1px" borderColor="lines" pt="4">
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
                onMine={() => void store(theirs.version)}
                onTheirs={() => void navigate('/rate-cards')}
              />
            )}
            <Button colorPalette="kelp" loading={acting.busy} onClick={() => void store(card?.version ?? 0)}>
              {card === null ? 'Make the rate card' : 'Store the rate card'}
            </Button>
            {tried && faults.size > 0 && (
              <Text role="alert" color="declined" mt="2">
                {faults.get('/prices') ?? 'Something is missing or not good yet; see the fields.'}
              </Text>
            )}
            <Outcome of={acting} />
          </Box>
        </>
      }
    >
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
          <CardPrices plans={plans} prices={draft.prices} faultAt={faultAt} onPrices={onPrices} />
        </Part>
      </Grid>
    </PageAndMargin>
  );
}
