import { lazy, Suspense } from 'react';
import { Controller, type UseFormReturn } from 'react-hook-form';
import { parseDecimal } from '../../core/money/decimal.ts';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { OfferedRateView, PublicPage } from '../../server/signUp/messages.ts';
import { Field, Option, Select, Tick } from './fields.tsx';
import {
  amountOf,
  chosenFor,
  isAllowed,
  planOf,
  quantityOf,
  variantsOf,
  waysOf,
  type Filled,
} from './filled.ts';
import { Html } from './Html.tsx';
import { sayRate, saySaving, sayTrial, useSaying } from './saying.ts';

/** Comes only where something is asked. */
const Asks = lazy(() => import('./Asks.tsx').then((part) => ({ default: part.Asks })));

interface Props {
  readonly page: PublicPage;
  readonly form: UseFormReturn<Filled>;
}

/** What is taken: a rate of a plan, and whatever that leaves to whoever joins. */
export function Choose({ page, form }: Props) {
  const { words } = useSaying();
  const rateId = form.watch('rateId');
  const rate = page.rates.find(({ id }) => id === rateId);
  const plan = planOf(page, rate);
  const several = page.plans.length > 1;
  return (
    <section aria-labelledby="choose">
      <h2 id="choose">{page.labels.choose || words.labels.choose}</h2>
      <Controller
        control={form.control}
        name="rateId"
        render={({ field: { value, onChange, name } }) => (
          <div role="radiogroup" aria-labelledby="choose">
            {page.plans.map((one) => (
              <div key={one.id} className="plan">
                {several && <h3>{one.name}</h3>}
                {one.picture && <img src={one.picture} alt="" className="picture" loading="lazy" />}
                <Html text={one.text} />
                <div className="options">
                  {page.rates
                    .filter(({ planId }) => planId === one.id)
                    .map((offered) => (
                      <RateOption
                        key={offered.id}
                        rate={offered}
                        name={name}
                        checked={value === offered.id}
                        onChoose={() => {
                          onChange(offered.id);
                          const chosen = chosenFor(one, offered, page.locale);
                          const samePlan = offered.planId === rate?.planId;
                          form.setValue('variantId', chosen.variantId);
                          form.setValue('amount', chosen.amount);
                          if (!samePlan || offered.currency !== rate?.currency)
                            form.setValue('extras', chosen.extras);
                          if (!samePlan) form.setValue('answers', chosen.answers);
                          const ways = waysOf(offered);
                          if (!ways.includes(form.getValues('pays')))
                            form.setValue('pays', ways[0] ?? 'card');
                        }}
                      />
                    ))}
                </div>
                {one.documents.map(({ name: of, at }) => (
                  <p key={at}>
                    <a href={at} download>
                      {of}
                    </a>
                  </p>
                ))}
              </div>
            ))}
          </div>
        )}
      />
      {rate && <Leaves page={page} form={form} rate={rate} />}
      {plan && plan.asks.length + page.questions.length > 0 && (
        <Suspense fallback={null}>
          <Asks form={form} asks={plan.asks} name="answers" today={page.today} />
          <Asks form={form} asks={page.questions} name="questions" today={page.today} />
        </Suspense>
      )}
    </section>
  );
}

function RateOption(props: { rate: OfferedRateView; name: string; checked: boolean; onChoose: () => void }) {
  const { rate, name, checked, onChoose } = props;
  const saying = useSaying();
  const saving = saySaving(rate, saying);
  const trial = sayTrial(rate, saying);
  return (
    <Option
      name={name}
      value={rate.id}
      checked={checked}
      onChange={onChoose}
      title={rate.name}
      more={[saving, trial].filter(Boolean).join(' · ')}
      detail={sayRate(rate, saying)}
    />
  );
}

/** What a rate leaves to whoever takes it. */
function Leaves({ page, form, rate }: Props & { readonly rate: OfferedRateView }) {
  const saying = useSaying();
  const { words, amount, date } = saying;
  const plan = planOf(page, rate);
  const variants = variantsOf(plan, rate);
  const extras = (plan?.extras ?? []).filter(({ currency }) => currency === rate.currency);
  const errors = form.formState.errors;
  const minor = (major: string | null) =>
    major === null ? null : amount(parseDecimal(major, rate.digits).toString(), rate.currency);
  const range = rate.chosen ? words.between(minor(rate.chosen.min), minor(rate.chosen.max)) : '';
  return (
    <>
      {variants.length > 0 && (
        <Controller
          control={form.control}
          name="variantId"
          render={({ field: { value, onChange, name } }) => (
            <div role="radiogroup" aria-label={plan?.name} className="options beside">
              {variants.map((variant) => (
                <Option
                  key={variant.id}
                  name={name}
                  value={variant.id}
                  checked={value === variant.id}
                  onChange={() => onChange(variant.id)}
                  title={variant.name}
                  more={variant.says}
                />
              ))}
            </div>
          )}
        />
      )}
      {rate.chosen && (
        <Field
          label={words.fields.amount}
          inputMode="decimal"
          hint={range}
          error={errors.amount?.message}
          maxLength={24}
          {...form.register('amount', {
            validate: (_text, filled) => {
              const typed = amountOf(page, filled, rate);
              return (typed !== null && isAllowed(typed, rate)) || (typed === null ? words.badNumber : range);
            },
          })}
        />
      )}
      {rate.counted && page.quantityMost !== null && (
        <Field
          label={words.fields.quantity}
          inputMode="numeric"
          hint={words.upTo(page.quantityMost.toLocaleString(saying.locale))}
          error={errors.quantity?.message}
          maxLength={12}
          {...form.register('quantity', {
            validate: (_text, filled) => quantityOf(page, filled) !== null || words.badNumber,
          })}
        />
      )}
      {extras.map((extra) => {
        const says = extra.each === null ? '' : ` · ${amount(extra.each, extra.currency)}`;
        const label = `${extra.name}${says}`;
        const path = `extras.${extra.key}` as const;
        const error = errors.extras?.[extra.key]?.message;
        if (extra.how === 'required' && extra.min === extra.max)
          return (
            <p key={extra.key} className="quiet">
              {label} ({words.always})
            </p>
          );
        if (extra.min === 1 && extra.max === 1)
          return (
            <Controller
              key={extra.key}
              control={form.control}
              name={path}
              render={({ field: { value, onChange, name, ref } }) => (
                <Tick
                  label={label}
                  ref={ref}
                  name={name}
                  checked={value === '1'}
                  error={error}
                  onChange={({ target }) => onChange(target.checked ? '1' : '0')}
                />
              )}
            />
          );
        return (
          <Field
            key={extra.key}
            label={label}
            inputMode="numeric"
            hint={
              extra.how === 'required'
                ? words.between(String(extra.min), String(extra.max))
                : words.noneOr(words.between(String(extra.min), String(extra.max)))
            }
            error={error}
            maxLength={9}
            {...form.register(path, { pattern: { value: /^\d{1,7}$/, message: words.badNumber } })}
          />
        );
      })}
      {page.startWithin !== null && (
        <Select label={words.fields.starts} error={errors.starts?.message} {...form.register('starts')}>
          <option value="">{words.atOnce}</option>
          {Array.from({ length: page.startWithin }, (_, n) => formatDay(toDay(page.today) + n + 1)).map(
            (day) => (
              <option key={day} value={day}>
                {date(day)}
              </option>
            ),
          )}
        </Select>
      )}
      {page.billingDay && rate.interval?.unit === 'M' && (
        <Select
          label={words.fields.billingDay}
          error={errors.billingDay?.message}
          {...form.register('billingDay')}
        >
          <option value="">{words.usualDay}</option>
          {Array.from({ length: 28 }, (_, n) => String(n + 1)).map((day) => (
            <option key={day}>{day}</option>
          ))}
          <option value="last">{words.lastDay}</option>
        </Select>
      )}
    </>
  );
}
