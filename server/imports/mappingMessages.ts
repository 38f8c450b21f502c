import { z } from 'zod';

/** What a row of a customer file can say, by the names of the open format, and what each is called on a screen. */
export const CUSTOMER_FIELDS = {
  reference: 'Number of the customer',
  name: 'Name',
  email: 'E-mail',
  plan: 'Plan',
  rate: 'Rate',
  starts: 'First charge on',
  quantity: 'How many',
  amount: 'Their own amount',
  currency: 'Currency',
  group: 'Group',
  variant: 'Variant',
  phone: 'Telephone',
  organisation: 'Organisation',
  address: 'Address',
  country: 'Country',
  region: 'Region',
  tax_number: 'Tax number',
  tax_exempt: 'Pays no tax because',
  card_token: 'Token of the card',
} as const;
export type CustomerField = keyof typeof CUSTOMER_FIELDS;
export const FIELD_NAMES = Object.keys(CUSTOMER_FIELDS) as CustomerField[];

/** Where a field comes from: a column of the file, by its heading, or one value for all rows. */
const source = z.union([
  z.strictObject({ column: z.string().max(500) }),
  z.strictObject({ value: z.string().trim().max(200, 'At most 200 characters.') }),
]);
export const mappingSchema = z.partialRecord(
  z.enum(FIELD_NAMES as [CustomerField, ...CustomerField[]]),
  source,
);
/** Of what each field is made; one that is not there is left empty. */
export type Mapping = z.output<typeof mappingSchema>;

/** What columns are called elsewhere, as words without signs, the likeliest first. */
const CALLED: Readonly<Record<CustomerField, readonly string[]>> = {
  reference: [
    'reference',
    'ref',
    'customernumber',
    'customerno',
    'customerid',
    'membernumber',
    'memberno',
    'memberid',
    'number',
    'no',
    'id',
  ],
  name: ['name', 'fullname', 'customername', 'customer', 'membername', 'member', 'contactname', 'contact'],
  email: ['email', 'emailaddress', 'mail', 'mailaddress'],
  plan: ['plan', 'planname', 'product', 'membership', 'subscription'],
  rate: ['rate', 'ratename', 'price', 'tariff', 'interval', 'frequency', 'billing'],
  starts: [
    'starts',
    'start',
    'startdate',
    'startson',
    'nextcharge',
    'nextchargedate',
    'nextpayment',
    'nextbilling',
    'nextbillingdate',
    'renews',
    'renewal',
    'renewaldate',
    'firstcharge',
    'firstchargeon',
    'from',
  ],
  quantity: ['quantity', 'qty', 'howmany', 'count', 'units', 'seats'],
  amount: ['amount', 'ownamount', 'theiramount', 'pledge', 'donation', 'sum'],
  currency: ['currency', 'currencycode'],
  group: ['group', 'customergroup', 'segment', 'category'],
  variant: ['variant', 'option', 'size'],
  phone: ['phone', 'telephone', 'tel', 'phonenumber', 'mobile'],
  organisation: ['organisation', 'organization', 'company', 'firm'],
  address: ['address', 'postaladdress', 'billingaddress', 'street'],
  country: ['country', 'countrycode'],
  region: ['region', 'county', 'province', 'state'],
  tax_number: ['taxnumber', 'vatnumber', 'vatno', 'vatid', 'taxid'],
  tax_exempt: ['taxexempt', 'exempt', 'notaxbecause'],
  card_token: ['cardtoken', 'tokenofthecard', 'token', 'paymenttoken'],
};

const plain = (heading: string) =>
  heading
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]/g, '');

/** Guesses from the headings of a file what its columns hold. A column is taken once; nothing is guessed that is not called so. */
export function guessMapping(header: readonly string[]): Mapping {
  const taken = new Set<string>();
  const mapping: Mapping = {};
  for (const field of FIELD_NAMES) {
    const found = CALLED[field]
      .map((called) => header.find((heading) => plain(heading) === called && !taken.has(heading)))
      .find((heading) => heading !== undefined);
    if (found === undefined) continue;
    taken.add(found);
    mapping[field] = { column: found };
  }
  return mapping;
}

/** What is wrong with a mapping of a file, by field. */
export function faultsOfMapping(
  mapping: Mapping,
  header: readonly string[],
): { field: CustomerField; says: string }[] {
  const faults: { field: CustomerField; says: string }[] = [];
  for (const field of ['name', 'email'] as const)
    if (mapping[field] === undefined) faults.push({ field, says: 'Choose the column that holds it.' });
  const used = new Map<string, CustomerField>();
  for (const field of FIELD_NAMES) {
    const from = mapping[field];
    if (from === undefined) continue;
    if (!('column' in from)) {
      if (field === 'name' || field === 'email' || field === 'reference' || field === 'card_token')
        faults.push({ field, says: 'This differs from row to row: choose a column.' });
      continue;
    }
    if (!header.includes(from.column))
      faults.push({ field, says: `The file has no column "${from.column}".` });
    else if (header.indexOf(from.column) !== header.lastIndexOf(from.column))
      faults.push({ field, says: 'More than one column of the file is called so: rename one there.' });
    const other = used.get(from.column);
    if (other !== undefined)
      faults.push({ field, says: `This column is taken for: ${CUSTOMER_FIELDS[other].toLowerCase()}.` });
    used.set(from.column, field);
  }
  return faults;
}

/** A row of a file as the open format has it. Whoever has no number of their own has their e-mail address as one. */
export function mapped(record: Readonly<Record<string, string>>, mapping: Mapping): Record<string, string> {
  const row: Record<string, string> = {};
  for (const field of FIELD_NAMES) {
    const from = mapping[field];
    if (from !== undefined) row[field] = 'column' in from ? (record[from.column] ?? '') : from.value;
  }
  if (!row.reference?.trim()) row.reference = (row.email ?? '').trim().toLowerCase();
  return row;
}
