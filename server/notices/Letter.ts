import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, identity, instantOrNone, reference, referenceOrNone, text, table } from '../db/columns.ts';

/** A letter in the letterbook. `onceKey` names what it tells of, so that nobody gets it twice. */
export class Letter extends Model<InferAttributes<Letter>, InferCreationAttributes<Letter>> {
  declare id: CreationOptional<string>;
  declare onceKey: string;
  declare customerId: string;
  declare subscriptionId: CreationOptional<string | null>;
  declare caseId: CreationOptional<string | null>;
  declare linkId: CreationOptional<string | null>;
  declare event: string;
  declare reason: string;
  declare toAddress: string;
  declare subject: string;
  declare html: string;
  declare plain: string;
  declare state: CreationOptional<'queued' | 'sent' | 'undeliverable'>;
  declare fate: CreationOptional<string>;
  declare writtenOn: string;
  declare sentAt: CreationOptional<Date | null>;

  static setup(sequelize: Sequelize): void {
    Letter.init(
      {
        id: identity(),
        onceKey: text(),
        customerId: reference(),
        subscriptionId: referenceOrNone(),
        caseId: referenceOrNone(),
        linkId: referenceOrNone(),
        event: text(),
        reason: text(),
        toAddress: text(),
        subject: text(),
        html: text(),
        plain: text(),
        state: text(),
        fate: text(),
        writtenOn: date(),
        sentAt: instantOrNone(),
      },
      table(sequelize, 'letters'),
    );
  }
}
