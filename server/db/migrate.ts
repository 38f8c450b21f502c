import type { Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import type { Migration } from './migration.ts';
import * as first from './migrations/0001-first.ts';
import * as setup from './migrations/0002-setup.ts';
import * as offer from './migrations/0003-offer.ts';
import * as choices from './migrations/0004-choices.ts';
import * as changedBy from './migrations/0005-changed-by.ts';
import * as attempts from './migrations/0006-attempts.ts';
import * as idempotency from './migrations/0007-idempotency.ts';
import * as variantRates from './migrations/0008-offer.ts';
import * as safety from './migrations/0009-safety.ts';
import * as desk from './migrations/0010-desk.ts';
import * as settlement from './migrations/0011-settlement.ts';
import * as run from './migrations/0012-run.ts';
import * as mailPace from './migrations/0013-mail-pace.ts';
import * as foresight from './migrations/0014-foresight.ts';
import * as alongLists from './migrations/0015-along-lists.ts';
import * as methods from './migrations/0016-methods.ts';
import * as byStart from './migrations/0017-by-start.ts';
import * as askedFor from './migrations/0018-asked-for.ts';
import * as imports from './migrations/0019-imports.ts';
import * as severalMethods from './migrations/0020-several-methods.ts';
import * as reckonings from './migrations/0021-reckonings.ts';
import * as listViews from './migrations/0022-views.ts';
import * as contacts from './migrations/0023-contacts.ts';
import * as merges from './migrations/0024-merges.ts';
import * as files from './migrations/0025-files.ts';
import * as firstLetter from './migrations/0026-first-letter.ts';
import * as noteMethods from './migrations/0027-note-methods.ts';
import * as mergedReferences from './migrations/0028-merged-references.ts';
import * as bankAccounts from './migrations/0029-bank-accounts.ts';
import * as places from './migrations/0030-places.ts';
import * as linesAndFiles from './migrations/0031-lines-and-files.ts';
import * as noteMethodsAtOnce from './migrations/0032-note-methods-at-once.ts';
import * as language from './migrations/0034-language.ts';
import * as termsAsked from './migrations/0035-terms-asked.ts';
import * as signUpPages from './migrations/0036-sign-up-pages.ts';
import * as collect from './migrations/0037-collect.ts';
import * as confirmation from './migrations/0038-confirmation.ts';
import * as planInvoices from './migrations/0039-plan-invoices.ts';
import * as issuedEarly from './migrations/0040-issued-early.ts';
import * as enrolmentDrafts from './migrations/0041-enrolment-drafts.ts';
import * as recovery from './migrations/0042-recovery.ts';
import * as expiringCards from './migrations/0043-expiring-cards.ts';
import * as heldLetters from './migrations/0044-held-letters.ts';
import * as letterWords from './migrations/0045-letter-words.ts';
import * as onlineTransfers from './migrations/0033-online-transfers.ts';

const MIGRATIONS: readonly (Migration & { readonly name: string })[] = [
  { name: '0001-first', ...first },
  { name: '0002-setup', ...setup },
  { name: '0003-offer', ...offer },
  { name: '0004-choices', ...choices },
  { name: '0005-changed-by', ...changedBy },
  { name: '0006-attempts', ...attempts },
  { name: '0007-idempotency', ...idempotency },
  { name: '0008-offer', ...variantRates },
  { name: '0009-safety', ...safety },
  { name: '0010-desk', ...desk },
  { name: '0011-settlement', ...settlement },
  { name: '0012-run', ...run },
  { name: '0013-mail-pace', ...mailPace },
  { name: '0014-foresight', ...foresight },
  { name: '0015-along-lists', ...alongLists },
  { name: '0016-methods', ...methods },
  { name: '0017-by-start', ...byStart },
  { name: '0018-asked-for', ...askedFor },
  { name: '0019-imports', ...imports },
  { name: '0020-several-methods', ...severalMethods },
  { name: '0021-reckonings', ...reckonings },
  { name: '0022-views', ...listViews },
  { name: '0023-contacts', ...contacts },
  { name: '0024-merges', ...merges },
  { name: '0025-files', ...files },
  { name: '0026-first-letter', ...firstLetter },
  { name: '0027-note-methods', ...noteMethods },
  { name: '0028-merged-references', ...mergedReferences },
  { name: '0029-bank-accounts', ...bankAccounts },
  { name: '0030-places', ...places },
  { name: '0031-lines-and-files', ...linesAndFiles },
  { name: '0032-note-methods-at-once', ...noteMethodsAtOnce },
  { name: '0033-online-transfers', ...onlineTransfers },
  { name: '0034-language', ...language },
  { name: '0035-terms-asked', ...termsAsked },
  { name: '0036-sign-up-pages', ...signUpPages },
  { name: '0037-collect', ...collect },
  { name: '0038-confirmation', ...confirmation },
  { name: '0039-plan-invoices', ...planInvoices },
  { name: '0040-issued-early', ...issuedEarly },
  { name: '0041-enrolment-drafts', ...enrolmentDrafts },
  { name: '0042-recovery', ...recovery },
  { name: '0043-expiring-cards', ...expiringCards },
  { name: '0044-held-letters', ...heldLetters },
  { name: '0045-letter-words', ...letterWords },
];

/**
 * Brings a database to the newest structure. Run again it does nothing.
 * @param to the name of an earlier step to stop at: only tests of what comes after it want that
 */
export async function migrate(sequelize: Sequelize, to?: string): Promise<void> {
  const umzug = new Umzug({
    migrations: MIGRATIONS.map(({ name, up }) => ({
      name,
      up: () =>
        sequelize.transaction((transaction) =>
          up(async (statement, bound) => {
            const [rows] = await sequelize.query(statement, {
              transaction,
              ...(bound ? { bind: [...bound] } : {}),
            });
            return Array.isArray(rows) ? (rows as Record<string, unknown>[]) : [];
          }),
        ),
    })),
    storage: new SequelizeStorage({ sequelize, tableName: 'migrations' }),
    logger: undefined,
  });
  await umzug.up(to === undefined ? {} : { to });
}
