import { z } from 'zod';

/** What programs get: the resources of the API, from which its description is made. */

const id = z.string().meta({ description: 'An identity: digits.', example: '42' });
const day = z.iso.date().meta({ description: 'A civil date of the business.', example: '2027-01-04' });
const money = z
  .string()
  .regex(/^-?\d+$/)
  .meta({ description: 'An amount in minor units of its currency.', example: '1250' });
const currency = z.string().length(3).meta({ description: 'ISO 4217', example: 'GBP' });

export const planResource = z
  .object({
    id,
    name: z.string(),
    description: z.string().meta({ description: 'Formatted text: a few elements of HTML.' }),
    rates: z.array(
      z.object({
        id,
        name: z.string(),
        says: z.string().meta({ description: 'The rate in plain words.' }),
        terms: z
          .record(z.string(), z.unknown())
          .meta({ description: 'The terms; see the published JSON Schema.' }),
      }),
    ),
    variants: z
      .array(z.object({ id, name: z.string(), says: z.string() }))
      .meta({ description: 'Where there are some, an enrolment names one as `variantId`.' }),
    extras: z
      .array(
        z.object({
          key: z.string(),
          name: z.string(),
          how: z.enum(['required', 'preselected', 'offered']),
          min: z.int(),
          max: z.int(),
        }),
      )
      .meta({ description: 'Extra lines; an enrolment says how many of each as `extras`.' }),
    asks: z
      .array(
        z.object({
          label: z.string(),
          kind: z.string(),
          choices: z.array(z.string()),
          required: z.boolean(),
        }),
      )
      .meta({ description: 'What is asked; an enrolment answers by label as `answers`.' }),
  })
  .meta({ id: 'Plan' });

export const customerResource = z
  .object({
    id,
    reference: z.string(),
    name: z.string(),
    email: z.string(),
    country: z.string().nullable().meta({ description: 'ISO 3166-1 alpha-2' }),
    organisation: z.string(),
    createdOn: day,
  })
  .meta({ id: 'Customer' });

export const subscriptionResource = z
  .object({
    id,
    customerId: id,
    rateId: id,
    state: z.enum(['scheduled', 'trial', 'active', 'overdue', 'paused', 'lapsed', 'ended']),
    serviceStoppedOn: day.nullable().meta({
      description: 'The service is stopped from this day on, until what is owed is paid: do not serve.',
    }),
    endedWhy: z.string().nullable(),
    startsOn: day,
    endsOn: day.nullable(),
    terms: z.record(z.string(), z.unknown()),
  })
  .meta({ id: 'Subscription' });

export const invoiceResource = z
  .object({
    id,
    number: z.string().meta({ description: 'With the prefix of its series.' }),
    subscriptionId: id,
    customerId: id,
    issuedOn: day,
    dueOn: day,
    periodFrom: day,
    periodTo: day.meta({ description: 'The first day after the period.' }),
    currency,
    net: money,
    tax: money,
    total: money,
    collected: money,
    state: z.enum(['draft', 'issued', 'part-paid', 'paid', 'withdrawn', 'written off']),
  })
  .meta({ id: 'Invoice' });

export const made = z.object({ id }).meta({ id: 'Made' });
export const enrolled = z.object({ id, customerId: id }).meta({ id: 'Enrolled' });

/** One page of a list: `next` is the cursor of the page after it, or null on the last. */
export const pageOf = <Item extends z.ZodType>(item: Item) =>
  z.object({
    data: z.array(item),
    next: z.string().nullable().meta({ description: 'Pass it on as `after`.' }),
  });

export const cursorQuery = z.object({
  after: z
    .string()
    .max(100)
    .optional()
    .meta({ description: 'The cursor that the page before gave as `next`.' }),
  limit: z.coerce
    .number()
    .int()
    .min(1)
    .max(200)
    .default(50)
    .meta({ description: 'How many to give at most.' }),
});

export const newCustomer = z
  .strictObject({
    name: z.string().trim().min(1, 'Give a name.').max(200),
    email: z.email('Give an e-mail address.').max(200),
    country: z.string().length(2).optional().meta({ description: 'ISO 3166-1 alpha-2' }),
    organisation: z.string().trim().max(200).default(''),
    reference: z
      .string()
      .trim()
      .min(1)
      .max(80)
      .optional()
      .meta({ description: 'A reference of your own, unique.' }),
  })
  .meta({ id: 'NewCustomer' });
