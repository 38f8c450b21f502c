import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Almanac } from '../server/almanac.ts';
import { inTheNameOf } from '../server/audit/asker.ts';
import { takeUpload } from '../server/branding/uploads.ts';
import { businessDateOf } from '../server/business/businessDate.ts';
import { connectByKey } from '../server/gateways/connect.ts';
import { importHolidays } from '../server/calendar/holidays.ts';
import { STARTING_TEXTS, type PolicyKind } from '../server/policies/messages.ts';
import { writePolicy } from '../server/policies/policies.ts';
import { ladderSchema } from '../server/recovery/ladderMessages.ts';
import { makeLadder } from '../server/recovery/ladders.ts';
import { takeNewMethod } from '../server/recovery/newMethod.ts';
import type { SectionName } from '../server/settings/messages.ts';
import { changeSection, readSection } from '../server/settings/settings.ts';
import { signUpPageSchema } from '../server/signUp/messages.ts';
import { makeSignUpPage, switchSignUpPage } from '../server/signUp/pages.ts';
import { demoOwner } from '../server/staff/signIn.ts';
import { taxSchema } from '../server/taxes/messages.ts';
import { makeTax } from '../server/taxes/taxes.ts';
import { ROOT } from './settings.ts';

const SECTIONS: readonly SectionName[] = ['business', 'branding', 'invoicing', 'customers', 'mail'];

/**
 * Sets the sample business up as its owner would in Setup: by the same commands, from the files in demo/.
 * @param debitKey the secret key of its account for bank debits
 * @param siteUrl the address of its own site, which shows its sign-up pages
 */
export async function demoSetup(almanac: Almanac, debitKey: string, siteUrl: string): Promise<void> {
  const owner = await demoOwner();
  const asker = { personId: owner.id, who: owner.name, via: 'terminal', address: '', agent: '' } as const;
  await inTheNameOf(asker, async () => {
    const text = readFileSync(join(ROOT, 'demo', 'setup.json'), 'utf8');
    const { tax, ...sections } = JSON.parse(text) as Record<string, object>;
    const today = await businessDateOf(almanac);
    for (const name of SECTIONS) {
      const { value, version } = await readSection(almanac, name);
      await changeSection(almanac, name, { version, value: { ...value, ...sections[name] } as never });
    }
    const logo = readFileSync(join(ROOT, 'demo', 'logo.svg'));
    const { id } = await takeUpload(almanac, 'logo', logo, 'logo.svg');
    const branding = await readSection(almanac, 'branding');
    await changeSection(almanac, 'branding', {
      version: branding.version,
      value: { ...branding.value, logo: id },
    });
    for (const [kind, words] of Object.entries(STARTING_TEXTS)) {
      await writePolicy(almanac, { kind: kind as PolicyKind, text: words, source: '', effectiveOn: today });
    }
    const made = await makeTax(almanac, taxSchema.parse(tax));
    const taxing = await readSection(almanac, 'taxing');
    await changeSection(almanac, 'taxing', {
      version: taxing.version,
      value: { defaultTax: made.id, noTax: false, said: 'net' },
    });
    const holidays = readFileSync(join(ROOT, 'demo', 'holidays.ics'), 'utf8');
    await importHolidays(almanac, { country: 'GB', text: holidays, dryRun: false }, today);
    await makeLadders(almanac);
    await takeBankAccounts(almanac, debitKey);
    const sites = await readSection(almanac, 'sites');
    await changeSection(almanac, 'sites', { version: sites.version, value: { origins: [siteUrl] } });
    await makePages(almanac);
  });
}

/** Makes its ladders, the last of the file first: the first is asked before the others. Their file names plans by their keys. */
async function makeLadders(almanac: Almanac): Promise<void> {
  const plans = await almanac.db.rows<{ key: string; id: string }>('select key, id::text from plans');
  const text = readFileSync(join(ROOT, 'demo', 'ladders.json'), 'utf8');
  const { ladders } = JSON.parse(text) as { ladders: { serves: { plans?: string[] } }[] };
  for (const { serves, ...ladder } of ladders.toReversed()) {
    const named = serves.plans?.map((key) => plans.find((plan) => plan.key === key)?.id ?? '');
    await makeLadder(
      almanac,
      ladderSchema.parse({
        ...ladder,
        isDefault: false,
        serves: { ...serves, ...(named ? { plans: named } : {}) },
      }),
    );
  }
}

/** Makes its sign-up pages, and opens them. Their file names rates by plan and rate: `hive-watch/monthly`. */
async function makePages(almanac: Almanac): Promise<void> {
  const rates = await almanac.db.rows<{ key: string; id: string }>(
    `select p.key || '/' || r.key as key, r.id::text from rates r join plans p on p.id = r.plan_id`,
  );
  const idOf = (key: string) => rates.find((rate) => rate.key === key)?.id ?? '';
  const text = readFileSync(join(ROOT, 'demo', 'pages.json'), 'utf8');
  const { pages } = JSON.parse(text) as { pages: { rates: string[] }[] };
  for (const page of pages) {
    const ids = page.rates.map(idOf);
    const value = signUpPageSchema.parse({ ...page, rates: ids, firstRate: ids[0] });
    const { id } = await makeSignUpPage(almanac, value);
    await switchSignUpPage(almanac, id, true);
  }
}

/** The plan whose subscribers pay by bank debit, too. */
const DEBITED_PLAN = 'apiary-ground';

/** Connects the account for bank debits, and takes the bank accounts of some who rent ground. */
async function takeBankAccounts(almanac: Almanac, debitKey: string): Promise<void> {
  const { address, publicKey } = await connectByKey(almanac, debitKey, 'pasted key');
  const payers = await almanac.db.rows<{ customerId: string; name: string }>(
    `select c.id::text as "customerId", c.name
     from customers c join subscriptions s on s.customer_id = c.id join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
     where p.key = $plan and s.state = 'active' and s.collects = 'automatic'
       and (select count(*) from subscriptions o where o.customer_id = c.id) = 1
       and not exists (select from recovery_cases k where k.subscription_id = s.id and k.state = 'open')
     order by c.id limit $most`,
    { plan: DEBITED_PLAN, most: PRACTICE_IBANS.length },
  );
  for (const [i, { customerId, name: holder }] of payers.entries()) {
    const answer = await fetch(new URL('/v1/bank-accounts', address), {
      method: 'POST',
      headers: { Authorization: `Bearer ${publicKey}`, 'Content-Type': 'application/json' },
      body: JSON.stringify({ iban: PRACTICE_IBANS[i], holder }),
    });
    const { token } = (await answer.json()) as { token: string };
    await takeNewMethod(almanac, { customerId, token, kind: 'bank account', channel: 'staff' });
  }
}

/** Practice accounts of the made-up bank: the last one returns its first debit. */
const PRACTICE_IBANS = ['GB44TARN00010100000001', 'NL50TARN0000000123', 'GB97TARN00010100000017'];
