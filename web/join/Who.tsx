import type { UseFormReturn } from 'react-hook-form';
import { countryCodes } from '../../core/words/countries.ts';
import type { PublicPage } from '../../server/signUp/messages.ts';
import { Area, Field, Select, Tick } from './fields.tsx';
import { planOf, type Filled } from './filled.ts';
import { useSaying } from './saying.ts';

interface Props {
  readonly page: PublicPage;
  readonly form: UseFormReturn<Filled>;
}

/** Who joins, as far as the page asks, and where goods go to. */
export function Who({ page, form }: Props) {
  const { words } = useSaying();
  const { fields, labels } = words;
  const errors = form.formState.errors.customer;
  const rate = page.rates.find(({ id }) => id === form.watch('rateId'));
  const isGoods = planOf(page, rate)?.isGoods ?? false;
  const elsewhere = form.watch('elsewhere');
  const asked = (field: keyof PublicPage['ask']) => {
    // Goods go somewhere: then an address is asked for whatever the page says.
    const how = page.ask[field];
    const isNeeded =
      how === 'required' || (isGoods && !elsewhere && (field === 'address' || field === 'country'));
    return {
      shown: how !== 'no' || (isGoods && !elsewhere && (field === 'address' || field === 'country')),
      isNeeded,
    };
  };
  const text = (field: 'phone' | 'organisation' | 'tax_number', complete: string) => {
    const { shown, isNeeded } = asked(field);
    return (
      shown && (
        <Field
          label={fields[field]}
          optional={!isNeeded}
          autoComplete={complete}
          error={errors?.[field]?.message}
          maxLength={field === 'organisation' ? 200 : 40}
          {...form.register(`customer.${field}`, { required: isNeeded ? words.needed : false })}
        />
      )
    );
  };
  return (
    <section aria-labelledby="details">
      <h2 id="details">{page.labels.details || labels.details}</h2>
      <Field
        label={fields.name}
        autoComplete="name"
        error={errors?.name?.message}
        maxLength={200}
        {...form.register('customer.name', { required: words.needed })}
      />
      <Field
        label={fields.email}
        type="email"
        autoComplete="email"
        error={errors?.email?.message}
        maxLength={200}
        {...form.register('customer.email', {
          required: words.needed,
          pattern: { value: /^\s*[^\s@]+@[^\s@]+\.[^\s@]{2,}\s*$/, message: words.badEmail },
        })}
      />
      {text('organisation', 'organization')}
      {text('phone', 'tel')}
      {asked('address').shown && (
        <Address page={page} form={form} at="customer" isNeeded={asked('address').isNeeded} />
      )}
      {asked('country').shown && (
        <Countries
          page={page}
          form={form}
          at="customer"
          isGoods={isGoods && !elsewhere}
          isNeeded={asked('country').isNeeded}
        />
      )}
      {text('tax_number', 'off')}
      {page.fields.map(({ label, required }, i) => (
        <Field
          key={label}
          label={label}
          optional={!required}
          error={errors?.fields?.[i]?.message}
          maxLength={500}
          {...form.register(`customer.fields.${i}`, { required: required ? words.needed : false })}
        />
      ))}
      {isGoods && (
        <>
          <h2 id="ship">{page.labels.ship || labels.ship}</h2>
          <Tick label={words.shipElsewhere} {...form.register('elsewhere')} />
          {elsewhere && (
            <>
              <Field
                label={fields.name}
                optional
                autoComplete="shipping name"
                maxLength={200}
                {...form.register('shipping.name')}
              />
              <Address page={page} form={form} at="shipping" isNeeded />
              <Countries page={page} form={form} at="shipping" isGoods isNeeded />
            </>
          )}
        </>
      )}
      {/* People do not see this, nor do screen readers read it: whoever fills it is a program. */}
      <div className="nobody" aria-hidden="true">
        <label>
          {words.leaveEmpty}
          <input type="text" tabIndex={-1} autoComplete="off" {...form.register('website')} />
        </label>
      </div>
    </section>
  );
}

function Address({
  form,
  at,
  isNeeded,
}: Props & { readonly at: 'customer' | 'shipping'; readonly isNeeded: boolean }) {
  const { words } = useSaying();
  const errors = form.formState.errors[at];
  const of = at === 'shipping' ? 'shipping ' : '';
  return (
    <>
      <Area
        label={words.fields.address}
        optional={!isNeeded}
        autoComplete={`${of}street-address`}
        error={errors?.address?.message}
        maxLength={500}
        {...form.register(`${at}.address`, { required: isNeeded ? words.needed : false })}
      />
      <div className="two">
        <Field
          label={words.fields.postcode}
          optional={!isNeeded}
          autoComplete={`${of}postal-code`}
          error={errors?.postcode?.message}
          maxLength={20}
          {...form.register(`${at}.postcode`)}
        />
        <Field
          label={words.fields.region}
          optional
          autoComplete={`${of}address-level1`}
          error={errors?.region?.message}
          maxLength={60}
          {...form.register(`${at}.region`)}
        />
      </div>
    </>
  );
}

function Countries(
  props: Props & {
    readonly at: 'customer' | 'shipping';
    readonly isGoods: boolean;
    readonly isNeeded: boolean;
  },
) {
  const { page, form, at, isGoods, isNeeded } = props;
  const { words, country, locale } = useSaying();
  const { serves, shipsTo } = page;
  // Those that are not shipped to are there to be refused by name: nobody looks for a country that is left out.
  const codes = (serves.length > 0 ? serves : countryCodes()).map((code) => ({ code, name: country(code) }));
  const sorted = codes.toSorted((a, b) => a.name.localeCompare(b.name, locale));
  return (
    <Select
      label={words.fields.country}
      optional={!isNeeded}
      autoComplete={at === 'shipping' ? 'shipping country' : 'country'}
      error={form.formState.errors[at]?.country?.message}
      {...form.register(`${at}.country`, {
        required: isNeeded ? words.needed : false,
        validate: (code) =>
          !isGoods ||
          code === '' ||
          shipsTo.length === 0 ||
          shipsTo.includes(code) ||
          words.notShipped(country(code)),
      })}
    >
      <option value="">{words.choose}</option>
      {sorted.map(({ code, name }) => (
        <option key={code} value={code}>
          {name}
        </option>
      ))}
    </Select>
  );
}
