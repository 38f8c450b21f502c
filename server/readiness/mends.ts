import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { STARTING_TEXTS, type PolicyKind } from '../policies/messages.ts';
import { writePolicy } from '../policies/policies.ts';
import type { SectionName, SectionValue } from '../settings/messages.ts';
import { changeSection, readSection } from '../settings/settings.ts';
import { Person } from '../staff/Person.ts';
import { changeNotices } from '../staff/people.ts';

/** What one click on the readiness list does. Each is what somebody could have done on a page of Setup. */
const MENDS: Readonly<Record<string, (almanac: Almanac) => Promise<unknown>>> = {
  'no-tax': (almanac) => change(almanac, 'taxing', (now) => ({ ...now, noTax: true })),
  terms: (almanac) => begin(almanac, 'terms of service'),
  cancellation: (almanac) => begin(almanac, 'cancellation'),
  refund: (almanac) => begin(almanac, 'refund'),
  contact: async (almanac) => {
    const { senderAddress } = (await readSection(almanac, 'mail')).value;
    return change(almanac, 'business', (now) => ({ ...now, contactAddress: senderAddress }));
  },
  ladder: (almanac) =>
    change(almanac, 'recovery', (now) => ({
      ...now,
      letters: {
        ...now.letters,
        'payment declined': true,
        'payment still declined': true,
        'last reminder': true,
      },
    })),
  receipts: (almanac) =>
    change(almanac, 'recovery', (now) => ({ ...now, letters: { ...now.letters, receipt: true } })),
  'tell-me': async (almanac) => {
    const { personId } = askerNow();
    if (personId === null) throw new RefusedCommand(403, 'Sign in first.');
    const me = await Person.findByPk(personId, { rejectOnEmpty: true });
    const value = { ...me.notices, 'payment failed': 'at once' } as const;
    return changeNotices(almanac, personId, { version: me.version, value: value as never });
  },
};

/** Mends one thing on the readiness list. */
export async function mend(almanac: Almanac, what: string): Promise<void> {
  const does = Object.hasOwn(MENDS, what) ? MENDS[what] : undefined;
  if (!does) throw new RefusedCommand(404, 'There is no such mend.');
  await does(almanac);
}

async function change<Name extends SectionName>(
  almanac: Almanac,
  name: Name,
  to: (now: SectionValue<Name>) => SectionValue<Name>,
): Promise<void> {
  const { value, version } = await readSection(almanac, name);
  await changeSection(almanac, name, { version, value: to(value) });
}

async function begin(almanac: Almanac, kind: PolicyKind): Promise<void> {
  const effectiveOn = await businessDateOf(almanac);
  await writePolicy(almanac, { kind, text: STARTING_TEXTS[kind], source: '', effectiveOn });
}
