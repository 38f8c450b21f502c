import { Controller, type UseFormReturn } from 'react-hook-form';
import type { PublicPage, Quote } from '../../server/signUp/messages.ts';
import { Field, Option, Tick } from './fields.tsx';
import { waysOf, type Filled, type Pays } from './filled.ts';
import { useSaying } from './saying.ts';
import { lazy, Suspense, useState } from 'react';

/** Comes when it is opened. */
const Practice = lazy(() => import('./Practice.tsx').then((part) => ({ default: part.Practice })));

interface Props {
  readonly page: PublicPage;
  readonly form: UseFormReturn<Filled>;
  readonly quote: Quote | null;
}

/** How it is paid. What is typed of a card or a bank account goes to the gateway alone. */
export function Pay({ page, form, quote }: Props) {
  const { words } = useSaying();
  const rate = page.rates.find(({ id }) => id === form.watch('rateId'));
  const ways = waysOf(rate).filter((way) => isTaken(way, quote));
  const pays = form.watch('pays');
  const errors = form.formState.errors;
  return (
    <section aria-labelledby="pay">
      <h2 id="pay">{page.labels.pay || words.labels.pay}</h2>
      {ways.length === 0 && <p className="error">{words.closed.nothing}</p>}
      {ways.length > 1 && (
        <Controller
          control={form.control}
          name="pays"
          render={({ field: { value, onChange, name } }) => (
            <div role="radiogroup" aria-labelledby="pay" className="options beside">
              {ways.map((way) => (
                <Option
                  key={way}
                  name={name}
                  value={way}
                  checked={value === way}
                  onChange={() => onChange(way)}
                  title={words.methods[way]}
                />
              ))}
            </div>
          )}
        />
      )}
      {errors.pays?.message && (
        <p className="error" role="alert">
          {errors.pays.message}
        </p>
      )}
      {pays === 'card' && ways.includes('card') && <Card page={page} form={form} quote={quote} />}
      {pays === 'bank debit' && (
        <>
          <Field
            label={words.fields.iban}
            error={errors.bank?.iban?.message}
            maxLength={42}
            {...form.register('bank.iban', { required: words.needed, shouldUnregister: true })}
          />
          <Field
            label={words.fields.holder}
            autoComplete="name"
            error={errors.bank?.holder?.message}
            maxLength={200}
            {...form.register('bank.holder', { required: words.needed, shouldUnregister: true })}
          />
          <p className="quiet">{words.agreedBank(page.business)}</p>
        </>
      )}
      {(pays === 'invoice' || pays === 'online transfer' || pays === 'later') && (
        <p className="quiet">{words.methodSays[pays]}</p>
      )}
      {page.policies.map(({ id, kind, text }) => {
        const policy = words.policies[kind as keyof typeof words.policies];
        return (
          <div key={id} className="policy">
            <Tick
              label={words.agreeTo(policy)}
              error={errors.agreed?.[id]?.message}
              {...form.register(`agreed.${id}`, { required: words.mustAgree })}
            />
            <details>
              <summary>
                {words.read}: {policy}
              </summary>
              <div className="policy-text">{text}</div>
            </details>
          </div>
        );
      })}
    </section>
  );
}

/** Whether this is taken: something is connected that does, and what is chosen leaves it open. */
export function isTaken(way: Pays, quote: Quote | null): boolean {
  if (quote === null) return true;
  if (way === 'card') return quote.takesCards && quote.gateway !== null;
  // What is due at once is not paid later.
  if (way === 'later') return quote.now === '0';
  return way !== 'bank debit' || quote.bank !== null;
}

function Card({ page, form, quote }: Props) {
  const { words } = useSaying();
  const errors = form.formState.errors.card;
  const holder = quote?.gateway?.holder ?? 'no';
  const [practises, setPractises] = useState(false);
  return (
    <>
      <div className="two wide-first">
        <Field
          label={words.fields.number}
          inputMode="numeric"
          autoComplete="cc-number"
          error={errors?.number?.message}
          maxLength={40}
          {...form.register('card.number', {
            shouldUnregister: true,
            validate: (text) => /^\d{12,19}$/.test(text.replace(/[ -]/g, '')) || words.needed,
          })}
        />
        <Field
          label={words.fields.expires}
          placeholder="08/29"
          autoComplete="cc-exp"
          error={errors?.expires?.message}
          maxLength={9}
          {...form.register('card.expires', {
            shouldUnregister: true,
            validate: (text) => /^\s*(0?[1-9]|1[0-2])\s*\/\s*(20)?\d{2}\s*$/.test(text) || words.needed,
          })}
        />
      </div>
      {holder !== 'no' && (
        <Field
          label={words.fields.holder}
          optional={holder === 'optional'}
          autoComplete="cc-name"
          error={errors?.holder?.message}
          maxLength={200}
          {...form.register('card.holder', {
            shouldUnregister: true,
            required: holder === 'required' ? words.needed : false,
          })}
        />
      )}
      <p className="quiet">{words.agreedCard(page.business)}</p>
      {page.practice && quote?.gateway && (
        <details onToggle={({ currentTarget }) => setPractises(currentTarget.open)}>
          <summary>{words.practice}</summary>
          {practises && (
            <Suspense fallback={null}>
              <Practice form={form} url={quote.gateway.url} publicKey={quote.gateway.publicKey} />
            </Suspense>
          )}
        </details>
      )}
    </>
  );
}
