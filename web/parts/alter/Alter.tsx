import { Box, Button, Grid, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { AlterWords } from '../../../core/words/ownPage/words.ts';
import type { AlterationEffect } from '../../../server/subscriptions/alterMessages.ts';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { useEffectOf } from '../../api/useEffectOf.ts';
import { Outcome } from '../Outcome.tsx';
import { Settled } from './Settled.tsx';
import { PricesBeside } from '../PricesBeside.tsx';
import { Actions } from './Actions.tsx';
import { byUse, messageOf, newAlteration, type Alterable, type AlterDraft, type Kind } from './alteration.ts';
import { AlterFields } from './AlterFields.tsx';
import { useAlterSaying } from './alterSaying.ts';

interface Props {
  /** Where to ask: `effect` and `alter` stand under it. */
  readonly path: string;
  readonly of: Alterable;
  /** What each kind is called here. */
  readonly names: Readonly<Record<Kind, string>>;
  readonly disabled?: boolean;
  /** Marks the confirming button, where the business's own colours are to be used. */
  readonly ownColours?: boolean;
  readonly onDone: (effect: AlterationEffect) => void;
}

/** Alters a subscription: what it does is shown, payment by payment, before the one button that does it. */
export function Alter({ path, of, names, disabled = false, ownColours = false, onDone }: Props) {
  const [draft, setDraft] = useState<AlterDraft>(() => newAlteration(of));
  const acting = useAct();
  const { words } = useAlterSaying();
  const message = messageOf(draft);
  const looked = useEffectOf<AlterationEffect>(`${path}/effect`, message);
  const alter = async () => {
    let effect: AlterationEffect | null = null;
    const done = await acting.act(async () => {
      effect = await post<AlterationEffect>(`${path}/alter`, message ?? {});
    });
    if (done && effect) {
      setDraft(newAlteration(of));
      onDone(effect);
    }
  };
  const faultAt = (pointer: string) => looked.problem?.at(pointer) ?? acting.problem?.at(pointer);
  const change = (to: Partial<AlterDraft>) => {
    acting.clear();
    setDraft((now) => ({ ...now, ...to }));
  };
  const { problem } = looked;
  const beside = problem?.faults.some(({ detail }) => detail === problem.message) ?? false;
  return (
    <Grid gap="3" role="group" aria-label={words.group}>
      <Actions
        kinds={byUse(of.kinds)}
        chosen={draft.kind}
        names={names}
        onChoose={(kind) => change({ ...newAlteration(of), kind })}
      />
      <AlterFields of={of} draft={draft} effect={looked.effect} faultAt={faultAt} onChange={change} />
      {message !== null && !looked.current && <Text color="muted">{words.looking}</Text>}
      {problem && !beside && (
        <Text role="alert" color="declined">
          {problem.message}
        </Text>
      )}
      {looked.current && looked.effect && <Shown effect={looked.effect} kind={draft.kind} />}
      {message !== null && (
        <Box>
          <Button
            size="sm"
            colorPalette={draft.kind === 'cancel' && !ownColours ? 'red' : 'kelp'}
            {...(ownColours ? { 'data-main': true } : {})}
            disabled={disabled || !looked.current || !looked.effect}
            loading={acting.busy}
            onClick={() => void alter()}
          >
            {names[draft.kind as Kind]}
          </Button>
        </Box>
      )}
      <Outcome of={acting} />
    </Grid>
  );
}

/** What is charged as it is and as it would be, side by side. */
function Shown({ effect, kind }: { readonly effect: AlterationEffect; readonly kind: AlterDraft['kind'] }) {
  const { words, amount, figure, date, day } = useAlterSaying();
  const { says, currency, lines, before, after } = effect;
  const big = (amount: string | null) => (amount === null ? null : BigInt(amount));
  const shown = lines.map((line) => ({ ...line, before: big(line.before), after: big(line.after) }));
  const rows = Math.min(4, Math.max(before.length, after.length));
  const said = (payment: AlterationEffect['after'][number] | undefined) =>
    payment ? `${day(payment.dueOn)}: ${amount(payment.due, currency)}` : words.nothing;
  return (
    <Box role="status">
      <Text fontWeight="500" mb="2">
        {capital(isOwnChange(kind, words) && words.says ? words.says(kind, date(effect.effectiveOn)) : says)}.
      </Text>
      <PricesBeside
        title={words.prices.title}
        lines={shown}
        currency={currency}
        of={words.prices.of(currency, effect.withoutTax)}
        headings={words.prices.headings}
        inAll={words.prices.inAll}
        say={(sum) => figure(sum.toString(), currency)}
      />
      <Settled effect={effect} />
      <Box as="table" w="full" fontSize="13px" aria-label={words.beforeAndAfter}>
        <thead>
          <tr>
            <Box as="th" textAlign="start" color="muted" fontWeight="500">
              {words.asItIs}
            </Box>
            <Box as="th" textAlign="start" color="muted" fontWeight="500">
              {words.asItWillBe}
            </Box>
          </tr>
        </thead>
        <tbody>
          {rows === 0 && (
            <tr>
              <td>{words.nothing}</td>
              <td>{words.nothing}</td>
            </tr>
          )}
          {Array.from({ length: rows }, (_, i) => (
            <tr key={i}>
              <Box as="td" verticalAlign="top" pr="2">
                {i < before.length ? said(before[i]) : ''}
              </Box>
              <Box
                as="td"
                verticalAlign="top"
                fontWeight={said(before[i]) === said(after[i]) ? undefined : '600'}
              >
                {i < after.length ? said(after[i]) : i === after.length ? words.nothingMore : ''}
              </Box>
            </tr>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** Whether it is one of those that customers may make themselves, which all languages have words for. */
function isOwnChange(kind: AlterDraft['kind'], words: AlterWords): kind is keyof AlterWords['short'] {
  return Object.hasOwn(words.short, kind);
}
