import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import {
  date,
  identity,
  instantOrNone,
  reference,
  referenceOrNone,
  table,
  textOrNone,
} from '../db/columns.ts';

/** A customer's way to a page of their own. The link itself is signed, not stored. */
export class CustomerLink extends Model<
  InferAttributes<CustomerLink>,
  InferCreationAttributes<CustomerLink>
> {
  declare id: CreationOptional<string>;
  declare customerId: string;
  declare subscriptionId: string;
  declare caseId: CreationOptional<string | null>;
  declare expiresOn: string;
  /** Why it ended before it expired, in words that follow "it has ended:"; null while it is good. */
  declare endedWhy: CreationOptional<string | null>;
  declare endedAt: CreationOptional<Date | null>;

  static setup(sequelize: Sequelize): void {
    CustomerLink.init(
      {
        id: identity(),
        customerId: reference(),
        subscriptionId: reference(),
        caseId: referenceOrNone(),
        expiresOn: date(),
        endedWhy: textOrNone(),
        endedAt: instantOrNone(),
      },
      table(sequelize, 'customer_links'),
    );
  }
}
