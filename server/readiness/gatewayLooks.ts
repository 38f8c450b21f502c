import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { cannotRenew, statementFaults } from '../gateways/abilities.ts';
import { settingsOf } from '../settings/settings.ts';
import { line, there, type Finding } from './finding.ts';
import type { Mend } from './messages.ts';

/** Whether the accounts connected can charge what is sold, again and again. */
export async function gatewayLooks(almanac: Almanac): Promise<Finding[]> {
  const accounts = await almanac.gateways.connected();
  const toGateways = there('Open Gateways', '/setup/gateways');
  if (accounts.length === 0) {
    const connect: Mend = { kind: 'hand-over', says: 'Connect a gateway' };
    return [
      line(
        'gateway',
        true,
        'No gateway is connected',
        'There is no way for money to come in.',
        connect,
        there('Paste a key instead', '/setup/gateways'),
      ),
    ];
  }
  const { homeCurrency } = await Business.findOne({ rejectOnEmpty: true });
  const wanted = await almanac.db.rows<{ currency: string; rates: number; running: number }>(
    `select r.terms->>'currency' as currency, count(distinct r.id)::int as rates,
       count(s.id) filter (where s.state not in ('lapsed', 'ended'))::int as running
     from rates r join plans p on p.id = r.plan_id left join subscriptions s on s.rate_id = r.id
     where p.archived_on is null group by 1 order by 1`,
  );
  const currencies = wanted.length > 0 ? wanted : [{ currency: homeCurrency, rates: 0, running: 0 }];
  const takesCards = accounts.filter(({ facts }) => facts.abilities?.methods.includes('card'));
  const findings: Finding[] = [];
  if (takesCards.length === 0) {
    findings.push(
      line(
        'gateway-method',
        true,
        'No connected gateway takes cards',
        'Enrolment asks for a card; bank debit alone cannot be enrolled with yet.',
        { kind: 'hand-over', says: 'Connect one that does' },
        toGateways,
      ),
    );
    return findings;
  }
  const chargeable: string[] = [];
  for (const { currency, rates, running } of currencies) {
    const faults = takesCards.map((account) => cannotRenew(account, currency));
    if (faults.includes(null)) {
      chargeable.push(currency);
      continue;
    }
    const concerns = rates === 0 ? '' : ` ${rates} rates and ${running} running subscriptions wait for it.`;
    findings.push(
      line(
        `gateway-${currency}`,
        rates === 0 || running > 0 || currencies.length === 1,
        `No gateway can charge ${currency} again and again`,
        `${faults.filter((fault) => fault !== null).join(' ')}${concerns}`,
        toGateways,
      ),
    );
  }
  if (chargeable.length > 0) findings.push(`A gateway can charge ${chargeable.join(', ')} again and again`);
  for (const { name, facts } of accounts) {
    if (facts.mayCharge && !facts.mayPayOut) {
      findings.push(
        line(
          'gateway-payout',
          false,
          `${name} may charge but not pay out`,
          `${facts.says} What is collected stays there meanwhile.`,
          toGateways,
        ),
      );
    }
  }
  return findings;
}

/** Cards that are kept where they cannot be charged now. */
export async function lostCardLooks(almanac: Almanac): Promise<Finding[]> {
  const lost = await almanac.db.row<{ cards: number; name: string }>(
    `select count(*)::int as cards, min(g.name) as name
     from payment_methods m join gateway_accounts g on g.id = m.gateway_account_id
     where m.state <> 'replaced' and g.disconnected_on is not null`,
  );
  if (!lost || lost.cards === 0) return [];
  return [
    line(
      'gateway-lost',
      false,
      `${lost.cards} cards are kept by a gateway that is disconnected`,
      `What is due on them waits until ${lost.name} is connected again or the customers give another card.`,
      there('Open Gateways', '/setup/gateways'),
    ),
  ];
}

/** Whether the text on bank statements fits every gateway. */
export async function statementLooks(almanac: Almanac): Promise<Finding[]> {
  const { statementText } = await settingsOf(almanac, 'business');
  const fault = await statementFaults(almanac, statementText);
  if (fault === null) return [];
  return [
    line(
      'statement-text',
      true,
      'The bank-statement text does not fit a gateway',
      `${fault} Charges with it are refused there.`,
      there('Change it', '/setup/business'),
    ),
  ];
}
