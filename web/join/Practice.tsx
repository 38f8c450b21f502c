import { useEffect, useState } from 'react';
import type { UseFormReturn } from 'react-hook-form';
import { practiceCards, type PracticeCard } from '../api/gateway.ts';
import type { Filled } from './filled.ts';

/** Of a business that practises: the cards that its gateway knows, to take one by a press. */
export function Practice({
  form,
  url,
  publicKey,
}: {
  form: UseFormReturn<Filled>;
  url: string;
  publicKey: string;
}) {
  const [cards, setCards] = useState<readonly PracticeCard[]>([]);
  useEffect(() => void practiceCards({ url, publicKey }).then(setCards, () => undefined), [url, publicKey]);
  return (
    <ul className="practice">
      {cards.map(({ number, description }) => (
        <li key={number}>
          <button
            type="button"
            className="plain"
            onClick={() => {
              form.setValue('card.number', number, { shouldValidate: true });
              form.setValue('card.expires', '12/30', { shouldValidate: true });
            }}
          >
            {number}
          </button>{' '}
          {description}
        </li>
      ))}
    </ul>
  );
}
