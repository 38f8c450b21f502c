import { Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { OwnPage } from '../../../server/customers/ownMessages.ts';
import { Alter } from '../../parts/alter/Alter.tsx';
import { AlterSayingContext } from '../../parts/alter/alterSaying.ts';
import type { Alterable, Kind } from '../../parts/alter/alteration.ts';
import { OwnPart } from './OwnPart.tsx';
import { useOwnSaying } from './ownSaying.ts';

interface Props {
  readonly own: OwnPage;
  readonly path: string;
  readonly onDone: () => void;
}

/** What customers may change alone, each with its effect shown first. */
export function OwnChanges({ own, path, onDone }: Props) {
  const { mine } = own;
  const { words, amount, figure, date, day } = useOwnSaying();
  const { changes } = words;
  const [says, setSays] = useState('');
  const of = alterableOf(mine);
  if (mine.over || (of.kinds.length === 0 && mine.cancelledTo === null && says === '')) return null;
  return (
    <OwnPart title={changes.title}>
      {mine.cancelledTo !== null && <Text mb="3">{changes.endsOn(date(mine.cancelledTo))}</Text>}
      {of.kinds.length > 0 && (
        <AlterSayingContext value={{ words: words.alter, amount, figure, date, day }}>
          <Alter
            key={`${mine.cancelledTo}:${mine.variantId}:${mine.quantity}`}
            path={path}
            of={of}
            names={{ ...changes.names, 'pause until': '', date: '', 'rate card': '' }}
            disabled={own.readOnly}
            ownColours
            onDone={(effect) => {
              // What was changed is put in words by the server, in English alone.
              setSays(
                words.language === 'en' ? `Done: ${effect.says}. We have written to you.` : changes.done,
              );
              onDone();
            }}
          />
        </AlterSayingContext>
      )}
      <Text role="status" color="collected" fontWeight="600" mt="2">
        {says}
      </Text>
    </OwnPart>
  );
}

function alterableOf({
  may,
  cancelledTo,
  cancelledBy,
  quantity,
  variantId,
  variants,
  extras,
  once,
}: OwnPage['mine']): Alterable {
  const kinds: Kind[] = [
    ...(may.quantity && quantity !== null ? (['quantity'] as const) : []),
    ...(may.variant && variants.some(({ id }) => id !== variantId) ? (['variant'] as const) : []),
    ...(extras.length > 0 ? (['extra'] as const) : []),
    ...(once.length > 0 ? (['once'] as const) : []),
    ...(may.skip ? (['skip'] as const) : []),
    ...(may.pause ? (['pause'] as const) : []),
    ...(may.code ? (['code'] as const) : []),
    ...(cancelledTo === null && may.cancel !== 'never' ? (['cancel'] as const) : []),
    ...(cancelledTo !== null && cancelledBy === 'customer' ? (['go on'] as const) : []),
  ];
  return {
    kinds,
    cancelWhen: may.cancel === 'never' ? [] : [may.cancel],
    cancelAfter: may.cancelAfter ?? 1,
    pauseMost: may.pauseMost,
    quantity,
    variantId,
    variants,
    extras,
    once,
    cards: [],
    cardId: null,
    currency: '',
  };
}
