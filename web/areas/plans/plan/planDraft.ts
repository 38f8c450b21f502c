import type { z } from 'zod';
import type { extraSchema } from '../../../../server/plans/choiceMessages.ts';
import { planSchema, type PlanValue, type PlanView } from '../../../../server/plans/messages.ts';
import { NEW_PRICE, priceOf, type PriceDraft } from '../rate/draft.ts';
import { inFormWords } from '../../../parts/formWords.ts';
import { priceDraftOf } from '../rate/savedDraft.ts';
import { askOf, type AskDraft } from './askDraft.ts';

/** An extra line as it is being typed. */
export interface ExtraDraft {
  readonly key: string;
  readonly name: string;
  readonly currency: string;
  readonly price: PriceDraft;
  readonly when: 'recurring' | 'once';
  readonly how: 'required' | 'preselected' | 'offered';
  readonly min: string;
  readonly max: string;
  readonly byCustomer: boolean;
}

/** What customers may do, as it is being typed. */
export type MayDoDraft = Omit<PlanValue['mayDo'], 'cancelAfter' | 'pauseMost' | 'quantityMost'> & {
  readonly cancelAfter: string;
  readonly pauseMost: string;
  readonly quantityMost: string;
};

/** All that a plan says beside its rates, as it is being typed. */
export interface PlanDraft {
  readonly name: string;
  readonly outerName: string;
  readonly kind: PlanValue['kind'];
  readonly description: string;
  readonly statementText: string;
  readonly firstRate: string;
  readonly picture: { readonly id: string; readonly at: string } | null;
  readonly documents: readonly { readonly upload: string; readonly name: string; readonly at: string }[];
  readonly asks: readonly AskDraft[];
  readonly extras: readonly ExtraDraft[];
  readonly mayDo: MayDoDraft;
  readonly onInvoices: PlanValue['onInvoices'];
}

/** A new extra line, which needs a key that no other has. */
export function newExtra(currency: string, taken: readonly { readonly key: string }[]): ExtraDraft {
  let n = taken.length + 1;
  while (taken.some(({ key }) => key === `extra-${n}`)) n += 1;
  return {
    key: `extra-${n}`,
    name: '',
    currency,
    price: NEW_PRICE,
    when: 'recurring',
    how: 'offered',
    min: '1',
    max: '1',
    byCustomer: false,
  };
}

const whole = (text: string) => (/^\d+$/.test(text.trim()) ? Number(text.trim()) : Number.NaN);

/** What a draft stands for; what is not good stays as it was typed, for the schema to find. */
export function planValueOf(draft: PlanDraft): z.input<typeof planSchema> {
  const { picture, documents, asks, extras, mayDo } = draft;
  return {
    ...draft,
    statementText: draft.statementText.trim() || null,
    firstRate: draft.firstRate || null,
    picture: picture?.id ?? null,
    documents: documents.map(({ upload, name }) => ({ upload, name })),
    asks: asks.map(askOf),
    extras: extras.map(
      ({ price, min, max, ...extra }) =>
        ({ ...extra, price: priceOf(price), min: whole(min), max: whole(max) }) as z.input<
          typeof extraSchema
        >,
    ),
    mayDo: {
      ...mayDo,
      cancelAfter: mayDo.cancel === 'after payments' ? whole(mayDo.cancelAfter) : null,
      pauseMost: mayDo.pause || mayDo.skip ? whole(mayDo.pauseMost) : 3,
      quantityMost: mayDo.quantity ? whole(mayDo.quantityMost) : 100,
    },
  };
}

/** What is wrong with a draft, by pointer. */
export function faultsOfPlan(draft: PlanDraft): ReadonlyMap<string, string> {
  const parsed = planSchema.safeParse(planValueOf(draft));
  if (parsed.success) return new Map();
  // The first that is said of a field is what is to be mended first.
  return new Map(
    parsed.error.issues
      .toReversed()
      .map(({ path, message }) => inFormWords({ pointer: `/${path.join('/')}`, detail: message }))
      .map(({ pointer, detail }) => [pointer, detail]),
  );
}

/** The draft of a plan that is stored. */
export function planDraftOf(plan: PlanView): PlanDraft {
  const { name, outerName, kind, description, picture, pictureAt, documents, documentsAt, mayDo } = plan;
  const { onInvoices } = plan;
  return {
    ...{ name, outerName, kind, description, onInvoices },
    statementText: plan.statementText ?? '',
    firstRate: plan.firstRate ?? '',
    picture: picture !== null && pictureAt !== null ? { id: picture, at: pictureAt } : null,
    documents: documents.map((one, i) => ({ ...one, at: documentsAt[i] ?? '' })),
    asks: plan.asks.map(({ choices, ...ask }) => ({ ...ask, choices: choices.join('\n') })),
    extras: plan.extras.map(({ price, min, max, ...extra }) => ({
      ...extra,
      price: priceDraftOf(price),
      min: String(min),
      max: String(max),
    })),
    mayDo: {
      ...mayDo,
      cancelAfter: String(mayDo.cancelAfter ?? 12),
      pauseMost: String(mayDo.pauseMost),
      quantityMost: String(mayDo.quantityMost),
    },
  };
}
