import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { ExtraLine } from '../../core/offer/extras.ts';
import {
  dateOrNone,
  identity,
  json,
  referenceOrNone,
  text,
  textOrNone,
  whole,
  table,
} from '../db/columns.ts';
import type { Ask, MayDo } from './choiceMessages.ts';
import type { OnInvoices } from '../settings/messages.ts';
import type { PlanKind } from '../../core/offer/kinds.ts';

/** What is offered. */
export class Plan extends Model<InferAttributes<Plan>, InferCreationAttributes<Plan>> {
  declare id: CreationOptional<string>;
  declare key: string;
  declare name: string;
  /** What customers read; empty: the same name. */
  declare outerName: CreationOptional<string>;
  declare kind: CreationOptional<PlanKind>;
  /** Formatted text: safe HTML. */
  declare description: CreationOptional<string>;
  /** What the payer's bank shows for this plan; null: the business's default. */
  declare statementText: CreationOptional<string | null>;
  /** The rate that is offered first. */
  declare firstRate: CreationOptional<string | null>;
  declare picture: CreationOptional<string | null>;
  declare documents: CreationOptional<{ upload: string; name: string }[]>;
  /** What is asked of everybody who takes it. */
  declare asks: CreationOptional<Ask[]>;
  /** Lines offered beside its rates. */
  declare extras: CreationOptional<ExtraLine[]>;
  /** What customers may do alone; as stored, to be read by `mayDoOf`. */
  declare mayDo: CreationOptional<Partial<MayDo>>;
  /** What stands on its invoices in place of what Setup says for all. */
  declare onInvoices: CreationOptional<OnInvoices>;
  declare version: CreationOptional<number>;
  /** Who changed it last; empty: nobody has. */
  declare changedBy: CreationOptional<string>;
  declare archivedOn: CreationOptional<string | null>;

  static setup(sequelize: Sequelize): void {
    Plan.init(
      {
        id: identity(),
        key: text(),
        name: text(),
        outerName: { ...text(), defaultValue: '' },
        kind: { ...text(), defaultValue: 'service' },
        description: text(),
        statementText: textOrNone(),
        firstRate: referenceOrNone(),
        picture: referenceOrNone(),
        documents: { ...json(), defaultValue: [] },
        asks: { ...json(), defaultValue: [] },
        extras: { ...json(), defaultValue: [] },
        mayDo: { ...json(), defaultValue: {} },
        onInvoices: { ...json(), defaultValue: { note: '', footer: '', columns: null } },
        version: { ...whole(), defaultValue: 1 },
        changedBy: { ...text(), defaultValue: '' },
        archivedOn: dateOrNone(),
      },
      table(sequelize, 'plans'),
    );
  }
}
