import { Box, Grid } from '@chakra-ui/react';
import { useCallback, useMemo } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import type { PlanView } from '../../../server/plans/messages.ts';
import {
  signUpPageSchema,
  type SignUpPageForStaff,
  type SignUpPageInput,
} from '../../../server/signUp/messages.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { Conflict } from '../../parts/Conflict.tsx';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { useKeptDraft } from '../../parts/keptDraft.ts';
import { useDraftForm } from '../../parts/useDraftForm.ts';
import { AskedHere } from './AskedHere.tsx';
import { HowItEnds } from './HowItEnds.tsx';
import { HowPaid } from './HowPaid.tsx';
import { faultsOfPage, newPage, pageDraftOf, pageValueOf, type PageDraft } from './pageDraft.ts';
import { PageLook } from './PageLook.tsx';
import { PreviewFrame } from './PreviewFrame.tsx';
import { StartPoints } from './StartPoints.tsx';
import { Texts } from './Texts.tsx';
import { WhatIsOffered } from './WhatIsOffered.tsx';

/** A page that is stored, to be changed. */
export function EditSignUpPage() {
  const { id = '' } = useParams();
  const { data: page, error } = useAnswer<SignUpPageForStaff>(`/api/sign-up-pages/${id}`);
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  if (error && !page) return <PageAndMargin title="There is no such page">{error.message}</PageAndMargin>;
  return page && plans && page.id === id ? (
    <Editor key={page.version} page={page} plans={plans} initial={pageDraftOf(page)} />
  ) : (
    <PageLoading title="The sign-up page" shape="form" />
  );
}

/** A new page: of the rates that the address names, or of none yet. */
export function NewSignUpPage() {
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const [query] = useSearchParams();
  const named = query.get('rates') ?? '';
  const initial = useMemo(() => {
    const rates = named.split(',').filter((id) => /^\d{1,18}$/.test(id));
    const plan = plans?.find((one) => one.rates.some(({ id }) => id === rates[0]));
    return newPage(rates, plan ? plan.outerName || plan.name : '');
  }, [named, plans]);
  return plans ? (
    <Editor key={named} page={null} plans={plans} initial={initial} />
  ) : (
    <PageLoading title="Make a sign-up page" shape="form" />
  );
}

interface Props {
  readonly page: SignUpPageForStaff | null;
  readonly plans: readonly PlanView[];
  readonly initial: PageDraft;
}

/** Whether what is wrong with a field follows from another that is empty, and is said there. */
function isSaidAlready(field: string, { rates, key, keyFollows }: PageDraft): boolean {
  if (field.startsWith('/rates') || field === '/firstRate') return rates.length === 0;
  return field === '/key' && keyFollows && key === '';
}

function Editor({ page, plans, initial: begins }: Props) {
  const navigate = useNavigate();
  // eslint-disable-next-line react-hooks/exhaustive-deps -- what is read anew meanwhile changes nothing that is typed
  const initial = useMemo(() => begins, []);
  const name = page ? `page:${page.id}:${page.version}` : `page:${initial.rates.join(',')}`;
  const { draft, setDraft, kept } = useKeptDraft(name, initial);
  const change = useCallback((to: Partial<PageDraft>) => setDraft((now) => ({ ...now, ...to })), [setDraft]);
  const faults = useMemo(() => faultsOfPage(draft), [draft]);
  const value = pageValueOf(draft);
  const changed = JSON.stringify(draft) !== JSON.stringify(initial);
  const storeAt = async (version: number) => {
    if (!page) return (await post<{ id: string }>('/api/sign-up-pages', value)).id;
    await put(`/api/sign-up-pages/${page.id}`, { version, value });
    return page.id;
  };
  const form = useDraftForm<SignUpPageInput>({
    message: value,
    missing: draft.rates.length === 0 ? [{ field: '/rates', says: 'a rate to offer' }] : [],
    faults: new Map([...faults].filter(([field]) => !isSaidAlready(field, draft))),
    fieldOf: (pointer) => pointer.replace(/^\/value/, ''),
    send: async () => {
      const id = await storeAt(theirs?.version ?? page?.version ?? 1);
      kept.forget();
      await navigate(`/sign-up-pages/${id}`);
    },
  });
  const theirs = form.problem?.theirs;
  const parsed = signUpPageSchema.safeParse(value);
  const parts = { draft, faultAt: form.faultAt, onChange: change };
  return (
    <PageAndMargin
      title={page ? `${draft.texts[draft.language]?.title ?? draft.key}: the page` : 'Make a sign-up page'}
      onSubmit={() => (changed || !page) && form.confirm()}
      margin={
        <>
          <MarginHeading>As customers see it</MarginHeading>
          <PreviewFrame value={parsed.success ? value : null} language={draft.language} />
          <Confirm
            of={form}
            label={page ? 'Store the page' : 'Make the page'}
            unchanged={page !== null && !changed}
          >
            {theirs && (
              <Conflict
                mine={value}
                theirs={theirs.value as object}
                by={theirs.changedBy}
                onMine={() => void form.confirm()}
                onTheirs={() => (kept.forget(), void navigate(`/sign-up-pages/${page?.id}`))}
              />
            )}
          </Confirm>
        </>
      }
    >
      <KeptNote kept={kept} />
      <Grid gap="5" maxW="760px">
        {!page && draft.rates.length === 0 && <StartPoints />}
        <WhatIsOffered {...parts} plans={plans} />
        <Texts {...parts} />
        <Box>
          <AskedHere {...parts} plans={plans} />
          <HowPaid {...parts} plans={plans} />
          <PageLook {...parts} />
          <HowItEnds {...parts} />
        </Box>
      </Grid>
    </PageAndMargin>
  );
}
