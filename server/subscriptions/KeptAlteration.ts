import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { Alteration } from '../../core/alter/alterTerms.ts';
import type { Terms } from '../../core/terms/schema.ts';
import { date, dateOrNone, identity, json, reference, table, text } from '../db/columns.ts';
import type { AlterationMessage } from './alterMessages.ts';
import type { Subscription } from './Subscription.ts';

/** What an alteration changes of a subscription, as it stood before. */
export type BeforeAlteration = Pick<
  Subscription,
  'terms' | 'variantId' | 'rateCardId' | 'extras' | 'cancelledBy'
>;

/** An alteration that was made, kept with what stood before it: it can be taken back while it has not begun. */
export class KeptAlteration extends Model<
  InferAttributes<KeptAlteration>,
  InferCreationAttributes<KeptAlteration>
> {
  declare id: CreationOptional<string>;
  declare subscriptionId: string;
  declare madeOn: string;
  declare madeBy: 'customer' | 'business';
  declare asked: AlterationMessage;
  /** What it did to the terms. */
  declare alteration: Alteration;
  declare says: string;
  /** The first day on which something is otherwise. */
  declare effectiveOn: string;
  declare before: BeforeAlteration;
  declare termsAfter: Terms;
  declare takenBackOn: CreationOptional<string | null>;

  static setup(sequelize: Sequelize): void {
    KeptAlteration.init(
      {
        id: identity(),
        subscriptionId: reference(),
        madeOn: date(),
        madeBy: text(),
        asked: json(),
        alteration: json(),
        says: text(),
        effectiveOn: date(),
        before: json(),
        termsAfter: json(),
        takenBackOn: dateOrNone(),
      },
      table(sequelize, 'alterations'),
    );
  }
}
