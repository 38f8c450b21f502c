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
  identity,
  instantOrNone,
  json,
  reference,
  referenceOrNone,
  text,
  textOrNone,
  whole,
  table,
} from '../db/columns.ts';
import type { ClosedHow } from './closedHow.ts';
import type { DeclineClass } from '../../core/recovery/declineCodes.ts';

/** Opened by a failed payment; climbs its ladder until recovered or given up. */
export class RecoveryCase extends Model<
  InferAttributes<RecoveryCase>,
  InferCreationAttributes<RecoveryCase>
> {
  declare id: CreationOptional<string>;
  declare subscriptionId: string;
  declare ladderId: string;
  declare state: 'open' | 'recovered' | 'given up';
  declare declineClass: DeclineClass;
  /** The day of its ladder from which it has been of this class. */
  declare classFrom: CreationOptional<number>;
  declare openedOn: string;
  declare retryOn: CreationOptional<string | null>;
  /** In production, from which instant of that day on: a bank that is away is asked again within hours. */
  declare retryAt: CreationOptional<Date | null>;
  /** How many times it was asked again since the last rung. */
  declare retried: CreationOptional<number>;
  /** Days that it waited, which its ladder does not count. */
  declare waited: CreationOptional<number>;
  /** Rungs that the class of their own day did not want. */
  declare passed: CreationOptional<number[]>;
  declare lastRung: CreationOptional<number>;
  declare lastOn: CreationOptional<string | null>;
  declare nextRung: CreationOptional<number>;
  declare nextRungOn: CreationOptional<string | null>;
  /** How often it went on by another ladder or version: its rungs are counted anew each time. */
  declare leg: CreationOptional<number>;
  declare asideUntil: CreationOptional<string | null>;
  /** Who looks after it. */
  declare assignedTo: CreationOptional<string | null>;
  declare closedOn: CreationOptional<string | null>;
  /** By what it was closed. */
  declare closedHow: CreationOptional<ClosedHow | null>;

  static setup(sequelize: Sequelize): void {
    RecoveryCase.init(
      {
        id: identity(),
        subscriptionId: reference(),
        ladderId: reference(),
        state: text(),
        declineClass: text(),
        classFrom: { ...whole(), defaultValue: 0 },
        openedOn: date(),
        retryOn: dateOrNone(),
        retryAt: instantOrNone(),
        retried: { ...whole(), defaultValue: 0 },
        waited: { ...whole(), defaultValue: 0 },
        passed: { ...json(), defaultValue: [] },
        lastRung: { ...whole(), defaultValue: -1 },
        lastOn: dateOrNone(),
        nextRung: { ...whole(), defaultValue: 0 },
        nextRungOn: dateOrNone(),
        leg: { ...whole(), defaultValue: 0 },
        asideUntil: dateOrNone(),
        assignedTo: referenceOrNone(),
        closedOn: dateOrNone(),
        closedHow: textOrNone(),
      },
      table(sequelize, 'recovery_cases'),
    );
  }
}
