import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Almanac } from '../server/almanac.ts';
import { inTheNameOf } from '../server/audit/asker.ts';
import { takeUpload } from '../server/branding/uploads.ts';
import { businessDateOf } from '../server/business/businessDate.ts';
import { importHolidays } from '../server/calendar/holidays.ts';
import { STARTING_TEXTS, type PolicyKind } from '../server/policies/messages.ts';
import { writePolicy } from '../server/policies/policies.ts';
import type { SectionName } from '../server/settings/messages.ts';
import { changeSection, readSection } from '../server/settings/settings.ts';
import { demoOwner } from '../server/staff/signIn.ts';
import { taxSchema } from '../server/taxes/messages.ts';
import { makeTax } from '../server/taxes/taxes.ts';
import { ROOT } from './settings.ts';

const SECTIONS: readonly SectionName[] = ['business', 'branding', 'invoicing', 'customers', 'mail'];

/** Sets the sample business up as its owner would in Setup: by the same commands, from the files in demo/. */
export async function demoSetup(almanac: Almanac): Promise<void> {
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
  });
}
