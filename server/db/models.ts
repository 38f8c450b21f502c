import type { Sequelize } from 'sequelize';
import { Business } from '../business/Business.ts';
import { Customer } from '../customers/Customer.ts';
import { CustomerLink } from '../customers/CustomerLink.ts';
import { Mandate } from '../customers/Mandate.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { Invoice } from '../invoices/Invoice.ts';
import { Attempt } from '../payments/Attempt.ts';
import { Payment } from '../payments/Payment.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import { Ladder } from '../recovery/Ladder.ts';
import { RecoveryCase } from '../recovery/RecoveryCase.ts';
import { PageTurn } from '../run/PageTurn.ts';
import { SignUpPage } from '../signUp/SignUpPage.ts';
import { Person } from '../staff/Person.ts';
import { KeptAlteration } from '../subscriptions/KeptAlteration.ts';
import { Subscription } from '../subscriptions/Subscription.ts';

/** Ties the models to one connection. */
export function setupModels(sequelize: Sequelize): void {
  const models = [
    Business,
    Person,
    GatewayAccount,
    Plan,
    Rate,
    Customer,
    PaymentMethod,
    Mandate,
    CustomerLink,
    Subscription,
    KeptAlteration,
    Invoice,
    Attempt,
    Payment,
    Ladder,
    RecoveryCase,
    PageTurn,
    SignUpPage,
  ];
  for (const model of models) model.setup(sequelize);
}
