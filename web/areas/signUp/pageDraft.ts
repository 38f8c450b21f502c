import { PAGE_LANGUAGES, type PageLanguage } from '../../../core/words/signUp/languages.ts';
import type { LabelName } from '../../../core/words/signUp/words.ts';
import {
  LABELS,
  PAGE_METHODS,
  signUpPageSchema,
  type Asked,
  type PageMethod,
  type SignUpPageForStaff,
  type SignUpPageInput,
  type SignUpPageValue,
} from '../../../server/signUp/messages.ts';
import { CONTACT_FIELDS, type ContactField } from '../../../server/settings/messages.ts';
import { inFormWords } from '../../parts/formWords.ts';
import { askOf, type AskDraft } from '../plans/plan/askDraft.ts';

/** What a page says in one language, as it is being typed. */
export interface TextsDraft {
  readonly title: string;
  readonly text: string;
  readonly after: string;
  readonly labels: Readonly<Record<LabelName, string>>;
}

/** A page as it is being typed: numbers are texts, and what is not given is empty. */
export interface PageDraft {
  readonly key: string;
  /** Nobody has typed the address: it follows the title. */
  readonly keyFollows: boolean;
  readonly rates: readonly string[];
  readonly firstRate: string;
  readonly language: PageLanguage;
  readonly texts: Readonly<Partial<Record<PageLanguage, TextsDraft>>>;
  readonly pictures: readonly { readonly id: string; readonly at: string }[];
  readonly look: SignUpPageValue['look'];
  readonly ask: Readonly<Record<ContactField, Asked>>;
  readonly fields: Readonly<Record<string, Asked>>;
  readonly questions: readonly AskDraft[];
  readonly quantityMost: string;
  readonly codes: boolean;
  readonly startWithin: string;
  readonly billingDay: boolean;
  readonly methods: readonly PageMethod[];
  readonly policies: SignUpPageValue['policies'];
  readonly until: string;
  readonly places: string;
  readonly documents: readonly { readonly upload: string; readonly name: string; readonly at: string }[];
  readonly redirect: string;
}

const noLabels = () =>
  Object.fromEntries(Object.keys(LABELS).map((name) => [name, ''])) as Record<LabelName, string>;

export const NO_TEXTS: TextsDraft = { title: '', text: '', after: '', labels: noLabels() };

/** A new page of some rates. */
export function newPage(rates: readonly string[], title: string): PageDraft {
  return {
    ...{ key: keyOf(title), keyFollows: true, rates, firstRate: rates[0] ?? '', language: 'en' },
    ...{ texts: { en: { ...NO_TEXTS, title } }, pictures: [] },
    look: { header: 'plain', mainColour: '', accentColour: '' },
    ask: Object.fromEntries(Object.keys(CONTACT_FIELDS).map((name) => [name, 'setup'])) as PageDraft['ask'],
    ...{ fields: {}, questions: [], quantityMost: '', codes: false, startWithin: '', billingDay: false },
    methods: Object.keys(PAGE_METHODS) as PageMethod[],
    ...{ policies: [], until: '', places: '', documents: [], redirect: '' },
  };
}

/** A part of an address, of a title: small letters, digits and hyphens. */
export const keyOf = (title: string) =>
  title
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 50);

const numberOr = (text: string) => {
  const bare = text.trim();
  return bare === '' ? null : /^\d{1,9}$/.test(bare) ? Number(bare) : Number.NaN;
};

/** What a draft stands for; what is not good stays as it was typed, for the schema to find. */
export function pageValueOf(draft: PageDraft): SignUpPageInput {
  const { keyFollows: _, pictures, questions, texts, documents, until, fields, ...rest } = draft;
  return {
    ...rest,
    rates: [...rest.rates],
    methods: [...rest.methods],
    policies: [...rest.policies],
    fields: Object.fromEntries(Object.entries(fields).filter(([, how]) => how !== 'setup')),
    texts: Object.fromEntries(
      Object.entries(texts).map(([language, { labels, ...one }]) => [
        language,
        {
          ...one,
          labels: Object.fromEntries(Object.entries(labels).filter(([, text]) => text.trim() !== '')),
        },
      ]),
    ),
    pictures: pictures.map(({ id }) => id),
    documents: documents.map(({ upload, name }) => ({ upload, name })),
    questions: questions.map(askOf),
    quantityMost: numberOr(draft.quantityMost),
    startWithin: numberOr(draft.startWithin),
    places: numberOr(draft.places),
    until: until === '' ? null : until,
  };
}

/** What is wrong with a draft, by pointer. */
export function faultsOfPage(draft: PageDraft): ReadonlyMap<string, string> {
  const parsed = signUpPageSchema.safeParse(pageValueOf(draft));
  if (parsed.success) return new Map();
  return new Map(
    parsed.error.issues
      .toReversed()
      .map(({ path, message }) => inFormWords({ pointer: `/${path.join('/')}`, detail: message }))
      .map(({ pointer, detail }) => [pointer, detail]),
  );
}

/** The draft of a page that is stored. */
export function pageDraftOf({ value, picturesAt, documentsAt }: SignUpPageForStaff): PageDraft {
  const say = (n: number | null) => (n === null ? '' : String(n));
  const languages = Object.keys(PAGE_LANGUAGES) as PageLanguage[];
  return {
    ...value,
    keyFollows: false,
    texts: Object.fromEntries(
      languages.flatMap((language) => {
        const texts = value.texts[language];
        return texts ? [[language, { ...texts, labels: { ...noLabels(), ...texts.labels } }]] : [];
      }),
    ),
    pictures: value.pictures.map((id, i) => ({ id, at: picturesAt[i] ?? '' })),
    documents: value.documents.map((one, i) => ({ ...one, at: documentsAt[i] ?? '' })),
    questions: value.questions.map(({ choices, ...ask }) => ({ ...ask, choices: choices.join('\n') })),
    quantityMost: say(value.quantityMost),
    startWithin: say(value.startWithin),
    places: say(value.places),
    until: value.until ?? '',
  };
}
