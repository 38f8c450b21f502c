import { Op } from 'sequelize';
import { toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { listPolicies } from '../policies/policies.ts';
import { Ladder } from '../recovery/Ladder.ts';
import { mailServerUrl } from '../settings/sections.ts';
import { settingsOf } from '../settings/settings.ts';
import { usualDelivery } from '../staff/messages.ts';
import { Person } from '../staff/Person.ts';
import { here, line, there, type Finding } from './finding.ts';
import { gatewayLooks, lostCardLooks, statementLooks } from './gatewayLooks.ts';
import type { Readiness, ReadinessLine } from './messages.ts';
import { trialLooks } from './trialLooks.ts';

/** Each looks at one side of the business and says what is missing, or in a few words that it is in order. */
const LOOKS: readonly ((almanac: Almanac) => Promise<Finding[]>)[] = [
  gatewayLooks,
  lostCardLooks,
  statementLooks,
  taxLooks,
  policyLooks,
  mailLooks,
  recoveryLooks,
  staffLooks,
  offerLooks,
  trialLooks,
  invoiceLooks,
  calendarLooks,
  dayLooks,
];

/** What is still missing before money can move, computed from how everything stands now. */
export async function readReadiness(almanac: Almanac): Promise<Readiness> {
  const findings: Finding[] = [];
  for (const look of LOOKS) findings.push(...(await look(almanac)));
  const lines = findings.filter((finding): finding is ReadinessLine => typeof finding !== 'string');
  return {
    canMoveMoney: !lines.some(({ blocks }) => blocks),
    lines: [...lines.filter(({ blocks }) => blocks), ...lines.filter(({ blocks }) => !blocks)],
    inOrder: findings.filter((finding): finding is string => typeof finding === 'string'),
  };
}

async function taxLooks(almanac: Almanac): Promise<Finding[]> {
  const { defaultTax, noTax } = await settingsOf(almanac, 'taxing');
  if (noTax) return ['No tax is charged, as you said'];
  const today = await businessDateOf(almanac);
  if (defaultTax === null) {
    return [
      line(
        'tax',
        true,
        'No tax is set',
        'Rates that name no tax of their own would be charged without any, and nobody has said that this is right.',
        there('Set a tax', '/setup/taxes'),
        here('We charge no tax', 'no-tax'),
      ),
    ];
  }
  const inForce = await almanac.db.row(
    `select 1 from tax_rates where tax_id = $defaultTax and valid_from <= $today and (valid_to is null or valid_to > $today)`,
    { defaultTax, today },
  );
  if (inForce) return ['The default tax has a rate in force'];
  return [
    line(
      'tax-rate',
      true,
      'The default tax has no rate in force today',
      'New subscriptions would be charged without it.',
      there('Add a rate', '/setup/taxes'),
    ),
  ];
}

async function policyLooks(almanac: Almanac): Promise<Finding[]> {
  const policies = await listPolicies(almanac);
  const findings: Finding[] = [];
  const terms = policies.find(({ kind, inForce }) => kind === 'terms of service' && inForce);
  if (terms) findings.push('Terms of service are in force');
  else {
    findings.push(
      line(
        'terms',
        true,
        'There are no terms of service',
        'Terms that were not agreed to lose disputes: every mandate keeps the version it agreed to.',
        here('Begin with a plain text', 'terms'),
        there('Write your own', '/setup/policies'),
      ),
    );
  }
  for (const kind of ['cancellation', 'refund'] as const) {
    if (policies.some((policy) => policy.kind === kind && policy.inForce)) continue;
    findings.push(
      line(
        `policy-${kind}`,
        false,
        `There is no ${kind} text`,
        'Customers ask, and banks do in a dispute.',
        here('Begin with a plain text', kind),
        there('Write your own', '/setup/policies'),
      ),
    );
  }
  for (const { kind, check, inForce } of policies) {
    if (!inForce || !check || (check.answers && check.same)) continue;
    findings.push(
      line(
        `policy-link-${kind}`,
        false,
        check.answers
          ? `The ${kind} at its address has changed`
          : `The address of the ${kind} does not answer`,
        `${check.says} The copy made when it was given is what customers agree to.`,
        there('Look at it', '/setup/policies'),
      ),
    );
  }
  return findings;
}

async function mailLooks(almanac: Almanac): Promise<Finding[]> {
  const findings: Finding[] = [];
  const toMail = there('Open Mail', '/setup/mail');
  const server = (await mailServerUrl(almanac)) ?? almanac.config.SMTP_URL;
  if (server === undefined) {
    findings.push(
      line(
        'mail-server',
        true,
        'No mail server is set',
        'Letters wait, and nobody may lapse in silence.',
        toMail,
      ),
    );
  } else findings.push('A mail server is set');
  const { senderAddress } = await settingsOf(almanac, 'mail');
  if (senderAddress === '')
    findings.push(line('sender', true, 'There is no sender address', 'Letters cannot be sent.', toMail));
  const { contactAddress, replyAddress } = await settingsOf(almanac, 'business');
  if (contactAddress === '' && replyAddress === '') {
    findings.push(
      line(
        'contact',
        false,
        'Customers are not told where to write',
        'Their answers go to the sender address.',
        ...(senderAddress === '' ? [] : [here(`Take ${senderAddress}`, 'contact')]),
        there('Give another', '/setup/business'),
      ),
    );
  }
  const waiting = await almanac.db.row<{ lost: number }>(
    `select count(*)::int as lost from letters where state = 'undeliverable'
     and written_on > (select business_date - 30 from business)`,
  );
  if (waiting && waiting.lost > 0) {
    findings.push(
      line(
        'undeliverable',
        false,
        `${waiting.lost} letters of the last 30 days could not be delivered`,
        'Those customers do not know what they were written.',
        there('See them', '/letters?state=undeliverable'),
      ),
    );
  }
  return findings;
}

async function recoveryLooks(almanac: Almanac): Promise<Finding[]> {
  const { letters } = await settingsOf(almanac, 'recovery');
  const ladders = await Ladder.findAll({ where: { isCurrent: true, finalAction: { [Op.ne]: 'leave' } } });
  const writes = ['payment declined', 'payment still declined', 'last reminder'] as const;
  const silent =
    writes.every((event) => letters[event] === false) ||
    ladders.some(({ rungs }) => !rungs.some((rung) => rung.letter));
  const findings: Finding[] = [];
  if (ladders.length > 0 && silent) {
    findings.push(
      line(
        'ladder',
        true,
        'No ladder has a letter before its final action',
        'Customers would lapse in silence.',
        here('Switch its letters on', 'ladder'),
        there('Open Recovery', '/setup/recovery'),
      ),
    );
  } else findings.push('Failed payments climb a ladder with letters');
  if (letters.receipt === false) {
    findings.push(
      line(
        'receipts',
        false,
        'Receipts are off',
        'Customers are charged without a word.',
        here('Switch them on', 'receipts'),
        there('Open Recovery', '/setup/recovery'),
      ),
    );
  } else findings.push('Customers get receipts');
  return findings;
}

async function staffLooks(_almanac: Almanac): Promise<Finding[]> {
  const people = await Person.findAll({ where: { leftAt: null } });
  const told = people.some(
    (person) => (person.notices['payment failed'] ?? usualDelivery(person.role, 'payment failed')) !== 'off',
  );
  const findings: Finding[] = told
    ? ['Somebody is told when a payment fails']
    : [
        line(
          'staff-notices',
          false,
          'Nobody is told when a payment fails',
          'It stands on the day sheet alone.',
          here('Tell me at once', 'tell-me'),
          there('Choose what I am told', '/me'),
        ),
      ];
  const bare = people.filter(
    ({ role, passwordHash, secondFactorOn }) => role === 'owner' && passwordHash !== null && !secondFactorOn,
  );
  if (bare.length > 0) {
    findings.push(
      line(
        'second-factor',
        false,
        `${bare.map(({ name }) => name).join(' and ')} ${bare.length === 1 ? 'signs' : 'sign'} in by password alone`,
        'Whoever learns an owner’s password may do everything.',
        there('Turn on a second factor', '/me'),
      ),
    );
  }
  return findings;
}

async function offerLooks(almanac: Almanac): Promise<Finding[]> {
  const plans = await almanac.db.row<{ plans: number }>(
    'select count(*)::int as plans from plans where archived_on is null',
  );
  if (plans && plans.plans > 0) return ['There is something to sell'];
  return [
    line(
      'plan',
      true,
      'There is no plan',
      'Nothing is offered that anyone could pay for.',
      there('Make a plan', '/plans/new'),
    ),
  ];
}

async function invoiceLooks(almanac: Almanac): Promise<Finding[]> {
  const { legalName, address } = await settingsOf(almanac, 'business');
  if (legalName !== '' && address !== '') return ['Invoices say who issues them'];
  return [
    line(
      'seller',
      false,
      'Invoices do not say who issues them',
      'The legal name and address belong on every invoice; those issued without stay so.',
      there('Give them', '/setup/business'),
    ),
  ];
}

async function calendarLooks(almanac: Almanac): Promise<Finding[]> {
  const { shifts } = await settingsOf(almanac, 'calendar');
  if (Object.values(shifts).every((shift) => shift === 'none')) return [];
  const today = await businessDateOf(almanac);
  const ahead = await almanac.db.row('select 1 from holidays where date > $today::date limit 1', { today });
  if (ahead) return ['Holidays ahead are on record'];
  return [
    line(
      'holidays',
      false,
      'No holidays ahead are on record',
      'Due dates move around weekends, but not around holidays.',
      there('Open Calendar', '/setup/calendar'),
    ),
  ];
}

async function dayLooks(almanac: Almanac): Promise<Finding[]> {
  const { practice, businessDate } = await Business.findOne({ rejectOnEmpty: true });
  if (practice) return [];
  const today = await businessDateOf(almanac);
  const behind = toDay(today) - toDay(businessDate);
  if (behind <= 0) return ['The days are turned'];
  return [
    line(
      'worker',
      true,
      `The days have not been turned since ${businessDate}`,
      'No worker is running (./almanac worker), or it cannot go on: see the day sheet.',
      there('Open the day sheet', '/days/' + businessDate),
    ),
  ];
}
