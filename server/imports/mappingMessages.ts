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
  postcode: 'Postcode',
  country: 'Country',
  region: 'Region',
  language: 'Language',
  tax_number: 'Tax number',
  tax_exempt: 'Pays no tax because',
  card_token: 'Token of the card',
} as const;
export type CustomerField = keyof typeof CUSTOMER_FIELDS;
export const FIELD_NAMES = Object.keys(CUSTOMER_FIELDS) as CustomerField[];

/** A field of the business's own, by its label: `field:Member since`. */
export type OwnFieldName = `field:${string}`;
export type ImportedField = CustomerField | OwnFieldName;
const OWN = 'field:';
export const ownFieldName = (label: string): OwnFieldName => `${OWN}${label}`;
export const isOwnField = (field: string): field is OwnFieldName => field.startsWith(OWN);
/** What a field is called on a screen. */
export const calledField = (field: ImportedField): string =>
  isOwnField(field) ? field.slice(OWN.length) : CUSTOMER_FIELDS[field];

/** Where a field comes from: a column of the file, by its heading, or one value for all rows. */
const source = z.union([
  z.strictObject({ column: z.string().max(500) }),
  z.strictObject({ value: z.string().trim().max(200, 'At most 200 characters.') }),
]);
export const mappingSchema = z.partialRecord(
  z.union([
    z.enum(FIELD_NAMES as [CustomerField, ...CustomerField[]]),
    z.templateLiteral([OWN, z.string().min(1).max(60)]),
  ]),
  source,
);
/** Of what each field is made; one that is not there is left empty. */
export type Mapping = z.output<typeof mappingSchema>;

/** The fields that can be mapped, the business's own last. */
export const fieldsWith = (own: readonly string[]): ImportedField[] => [
  ...FIELD_NAMES,
  ...own.map(ownFieldName),
];
const fieldsIn = (mapping: Mapping): ImportedField[] => [
  ...FIELD_NAMES,
  ...Object.keys(mapping).filter(isOwnField),
];

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
  postcode: ['postcode', 'postalcode', 'zip', 'zipcode', 'plz'],
  country: ['country', 'countrycode'],
  region: ['region', 'county', 'province', 'state'],
  language: ['language', 'lang', 'locale'],
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
export function guessMapping(header: readonly string[], own: readonly string[] = []): Mapping {
  const taken = new Set<string>();
  const mapping: Mapping = {};
  for (const field of fieldsWith(own)) {
    const found = (isOwnField(field) ? [plain(field), plain(calledField(field))] : CALLED[field])
      .map((called) => header.find((heading) => plain(heading) === called && !taken.has(heading)))
      .find((heading) => heading !== undefined);
    if (found === undefined) continue;
    taken.add(found);
    mapping[field] = { column: found };
  }
  return mapping;
}

/**
 * What is wrong with a mapping of a file, by field.
 * @param own the labels of the business's own fields; absent: whichever are mapped
 */
export function faultsOfMapping(
  mapping: Mapping,
  header: readonly string[],
  own?: readonly string[],
): { field: ImportedField; says: string }[] {
  const faults: { field: ImportedField; says: string }[] = [];
  for (const field of ['name', 'email'] as const)
    if (mapping[field] === undefined) faults.push({ field, says: 'Choose the column that holds it.' });
  const used = new Map<string, ImportedField>();
  for (const field of fieldsIn(mapping)) {
    const from = mapping[field];
    if (from === undefined) continue;
    if (own && isOwnField(field) && !own.includes(calledField(field)))
      faults.push({ field, says: 'Customers have no such field any more.' });
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
      faults.push({ field, says: `This column is taken for: ${calledField(other).toLowerCase()}.` });
    used.set(from.column, field);
  }
  return faults;
}

/** A row of a file as the open format has it. Whoever has no number of their own has their e-mail address as one. */
export function mapped(record: Readonly<Record<string, string>>, mapping: Mapping): Record<string, string> {
  const row: Record<string, string> = {};
  for (const field of fieldsIn(mapping)) {
    const from = mapping[field];
    if (from !== undefined) row[field] = 'column' in from ? (record[from.column] ?? '') : from.value;
  }
  if (!row.reference?.trim()) row.reference = (row.email ?? '').trim().toLowerCase();
  return row;
}
