import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import {
  date,
  dateOrNone,
  flag,
  identity,
  instantOrNone,
  jsonOrNone,
  money,
  reference,
  referenceOrNone,
  table,
  text,
  textOrNone,
  whole,
} from '../db/columns.ts';
import type { AttemptReason } from './attemptReason.ts';
import type { Channel } from './channel.ts';
import type { AttemptState } from './states.ts';

/** What is sent to the gateway under an attempt's key, each time in the very same words. */
export interface StoredRequest {
  readonly token: string;
  /** Minor units, digits only. */
  readonly amount: string;
  readonly currency: string;
  readonly statementText: string;
  readonly reference: string;
  readonly channel: Channel;
  readonly businessDate: string;
}

/**
 * One try at a payment at a gateway. Its key is stored before the gateway is called, and sent again until the outcome is known.
 * What staff take by hand stands in the same table, without a method and an account, and is collected as it is written
 * (`takings/take.ts`): it is never read by this model.
 */
export class Attempt extends Model<InferAttributes<Attempt>, InferCreationAttributes<Attempt>> {
  declare id: CreationOptional<string>;
  declare invoiceId: string;
  /** Whose invoice it is. */
  declare customerId: string;
  declare paymentMethodId: string;
  /** The account that it was or will be sent to, and no other. */
  declare gatewayAccountId: string;
  declare idempotencyKey: string;
  declare amount: bigint;
  declare reason: AttemptReason;
  declare channel: Channel;
  declare request: CreationOptional<StoredRequest | null>;
  declare state: AttemptState;
  declare responseCode: CreationOptional<string | null>;
  declare gatewayCharge: CreationOptional<string | null>;
  declare attemptedOn: string;
  /** When it was last sent; null while it surely never reached the gateway. */
  declare sentAt: CreationOptional<Date | null>;
  /** Of what was submitted: the day on which it is answered, whatever has happened until then. */
  declare expectedOn: CreationOptional<string | null>;
  /** Its cardholder is to confirm it at the gateway's page, or was. */
  declare waitsFor: CreationOptional<'cardholder' | null>;
  declare settledAt: CreationOptional<Date | null>;
  /** The rung of the case that it was made for. */
  declare caseId: CreationOptional<string | null>;
  declare rung: CreationOptional<number | null>;
  /** Which of the ladders that its case climbed the rung is of: 0 the first. */
  declare leg: CreationOptional<number>;
  /** It was declined, and the next method is tried in its turn before anything follows from that. */
  declare goesOn: CreationOptional<boolean>;

  static setup(sequelize: Sequelize): void {
    Attempt.init(
      {
        id: identity(),
        invoiceId: reference(),
        customerId: reference(),
        paymentMethodId: reference(),
        gatewayAccountId: reference(),
        idempotencyKey: text(),
        amount: money('amount'),
        reason: text(),
        channel: text(),
        request: jsonOrNone(),
        state: text(),
        responseCode: textOrNone(),
        gatewayCharge: textOrNone(),
        attemptedOn: date(),
        sentAt: instantOrNone(),
        expectedOn: dateOrNone(),
        waitsFor: textOrNone(),
        settledAt: instantOrNone(),
        caseId: referenceOrNone(),
        rung: { ...whole(), allowNull: true },
        leg: { ...whole(), defaultValue: 0 },
        goesOn: { ...flag(), defaultValue: false },
      },
      table(sequelize, 'attempts'),
    );
  }
}
