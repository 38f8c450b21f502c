import { Box, Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import useSWR from 'swr';
import { factsOf } from '../../../../core/letters/events.ts';
import {
  isPageLanguage,
  PAGE_LANGUAGES,
  type PageLanguage,
} from '../../../../core/words/signUp/languages.ts';
import type {
  LetterWordsDraft,
  LetterWordsView,
  TriedLetter,
} from '../../../../server/notices/wordsMessages.ts';
import type { PlanView } from '../../../../server/plans/messages.ts';
import type { Me } from '../../../../server/staff/messages.ts';
import { post, put } from '../../../api/client.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { useAct } from '../../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../../frame/PageLoading.tsx';
import { useFrame } from '../../../frame/useFrame.ts';
import { Confirm } from '../../../parts/Confirm.tsx';
import { Conflict } from '../../../parts/Conflict.tsx';
import { useKeptDraft } from '../../../parts/keptDraft.ts';
import { KeptNote } from '../../../parts/KeptNote.tsx';
import { Outcome } from '../../../parts/Outcome.tsx';
import { sayInstant } from '../../../parts/sayInstant.ts';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import { useDraftForm } from '../../../parts/useDraftForm.ts';
import { OnWhom } from './OnWhom.tsx';
import { RateWords } from './RateWords.tsx';
import { TriedLetterView } from './TriedLetterView.tsx';
import { draftOf, faultsOfDraft, fieldOfPointer, valueOf, withOurs, type WordsDraft } from './wordsDraft.ts';
import { WordsEditor } from './WordsEditor.tsx';

/** The words of one letter: in each language, with what is added to it, as it will be read. */
export function LetterWordsPage() {
  const { event = '' } = useParams();
  const [params, setParams] = useSearchParams();
  const asked = params.get('language') ?? 'en';
  const language: PageLanguage = isPageLanguage(asked) ? asked : 'en';
  const { data, error } = useAnswer<LetterWordsView>(
    `/api/letter-words/${encodeURIComponent(event)}?language=${language}`,
  );
  if (error && !data) return <PageAndMargin title="There is no such letter">{error.message}</PageAndMargin>;
  if (data?.event !== event || data.language !== language) return <PageLoading title="Letter" shape="form" />;
  return (
    <Editor
      key={`${event} ${language} ${data.version}`}
      view={data}
      onLanguage={(to) => setParams({ language: to }, { replace: true })}
    />
  );
}

function Editor(props: {
  readonly view: LetterWordsView;
  readonly onLanguage: (language: PageLanguage) => void;
}) {
  const { view, onLanguage } = props;
  const { event, language } = view;
  const { role } = useFrame();
  const navigate = useNavigate();
  const readOnly = role === 'reader';
  const saved = draftOf(view);
  const { draft, setDraft, kept } = useKeptDraft<WordsDraft>(
    `letter:${event}:${language}:${view.version}`,
    saved,
  );
  // The editors hold what they began with: they begin anew where something else than typing changed it.
  const [begun, setBegun] = useState(0);
  const value = valueOf(draft, view);
  const faults = faultsOfDraft(value, view);
  const form = useDraftForm({
    message: value,
    missing: [],
    faults,
    fieldOf: (pointer) => fieldOfPointer(pointer, draft),
    send: async (message) => {
      const version = newer?.version ?? view.version;
      await put(`/api/letter-words/${encodeURIComponent(event)}`, { ...message, version });
      kept.forget();
    },
  });
  const theirs = form.problem?.theirs;
  const newer = theirs?.value as LetterWordsView | undefined;
  const set = (to: Partial<WordsDraft>) => setDraft((now) => ({ ...now, ...to }));
  const isSame = JSON.stringify(value) === JSON.stringify(valueOf(saved, view));
  const editor = (
    field: 'subject' | 'paragraphs' | 'added',
    around: { readonly label: string; readonly hint?: string; readonly isOneLine?: boolean },
  ) => (
    <WordsEditor
      key={`${field} ${begun}`}
      {...{ event, field, readOnly, lines: draft[field], error: form.faultAt(field), ...around }}
      onChange={(lines) => set({ [field]: lines })}
    />
  );
  return (
    <PageAndMargin
      title={`Letter: ${view.says}`}
      arriveAt="heading"
      action={
        <TextLink asChild color="kelp.fg">
          <Link to="/setup/recovery">All letters</Link>
        </TextLink>
      }
      onSubmit={readOnly ? undefined : form.confirm}
      margin={
        <>
          <Tried value={value} view={view} good={faults.size === 0} />
          {!readOnly && (
            <Confirm of={form} unchanged={isSame} label="Store these words">
              <Text mb="3">Letters that are written already stay as they are.</Text>
              {theirs && (
                <Conflict
                  mine={value}
                  theirs={valueOf(draftOf(newer ?? view), newer ?? view)}
                  by={theirs.changedBy}
                  onMine={() => void form.confirm()}
                  onTheirs={() => (kept.forget(), void navigate(0))}
                />
              )}
            </Confirm>
          )}
        </>
      }
    >
      <KeptNote kept={{ ...kept, afresh: () => (setBegun(begun + 1), kept.afresh()) }} />
      <Flex gap="5" align="flex-end" mb="4" wrap="wrap">
        <SelectField
          w="180px"
          label="Language"
          value={language}
          onChange={({ target }) => onLanguage(target.value as PageLanguage)}
        >
          {Object.entries(PAGE_LANGUAGES).map(([code, name]) => (
            <option key={code} value={code}>
              {name}
              {view.changedIn.includes(code as PageLanguage) ? ', changed' : ''}
            </option>
          ))}
        </SelectField>
        <Text color="muted" flex="1" minW="220px">
          {value.letter === null ? 'Our words.' : 'Your own words.'}
          {view.changedBy && ` Last changed by ${view.changedBy}, ${sayInstant(view.changedAt)}.`}
        </Text>
        {value.letter !== null && !readOnly && (
          <Button
            size="sm"
            variant="outline"
            onClick={() => {
              setDraft((now) => withOurs(now, view));
              setBegun(begun + 1);
            }}
          >
            Put our words back
          </Button>
        )}
      </Flex>
      {editor('subject', { label: 'Subject', isOneLine: true })}
      {editor('paragraphs', {
        label: 'Letter',
        hint: 'It begins with a greeting and ends with the name of your business. A paragraph that comes to nothing is left out.',
      })}
      {factsOf(event).link && (
        <Box maxW="360px" mb="4">
          <TextField
            label="What the link to their own page says"
            field="link"
            maxLength={80}
            disabled={readOnly}
            value={draft.link}
            error={form.faultAt('link')}
            onChange={({ target }) => set({ link: target.value })}
          />
        </Box>
      )}
      {editor('added', {
        label: 'Added to it',
        hint: 'Words of yours that follow the letter, whichever words it is written in.',
      })}
      <RateWords
        key={`rates ${begun}`}
        {...{ event, readOnly, byRate: draft.byRate }}
        errorOf={(rateId) => form.faultAt(`rate ${rateId}`)}
        onChange={(byRate) => set({ byRate })}
      />
    </PageAndMargin>
  );
}

/** The letter as it would be read by a customer, and a way to send it as a test. */
function Tried(props: {
  readonly value: LetterWordsDraft;
  readonly view: LetterWordsView;
  readonly good: boolean;
}) {
  const { value, view, good } = props;
  const { event } = view;
  const { role } = useFrame();
  const { data: me } = useAnswer<Me>('/api/me');
  const { how: cases } = factsOf(event);
  const [customer, setCustomer] = useState<{ id: string; name: string } | null>(null);
  const [how, setHow] = useState(cases ? (Object.keys(cases)[0] ?? null) : null);
  const [rateId, setRateId] = useState('');
  const { data: plans } = useAnswer<PlanView[]>(value.byRate.length > 0 ? '/api/plans' : null);
  const asked = {
    ...value,
    ...{ customerId: customer?.id ?? null, rateId: rateId === '' ? null : rateId, how },
  };
  const path = `/api/letter-words/${encodeURIComponent(event)}`;
  const { data, error } = useSWR<TriedLetter, Error>(
    good ? [`${path}/try`, JSON.stringify(asked)] : null,
    ([to, body]: [string, string]) => post<TriedLetter>(to, JSON.parse(body) as object),
    { keepPreviousData: true },
  );
  const acting = useAct();
  const [to, setTo] = useState<string | null>(null);
  const address = (to ?? me?.email ?? '').trim();
  return (
    <>
      <MarginHeading>As it will be read</MarginHeading>
      <OnWhom chosen={customer} onChoose={setCustomer} />
      {cases && (
        <SelectField
          label="In the case that"
          value={how ?? ''}
          onChange={({ target }) => setHow(target.value)}
        >
          {Object.entries(cases).map(([code, says]) => (
            <option key={code} value={code}>
              {says}
            </option>
          ))}
        </SelectField>
      )}
      {plans && (
        <SelectField label="Of the rate" value={rateId} onChange={({ target }) => setRateId(target.value)}>
          <option value="">{customer ? 'That of the customer' : 'Any'}</option>
          {value.byRate.map((one) => (
            <option key={one.rateId} value={one.rateId}>
              {sayRateName(plans, one.rateId)}
            </option>
          ))}
        </SelectField>
      )}
      {/* Always as high: what stands below stays where it is when a letter comes, or is longer than the one before. */}
      <Box mt="3" h="600px" overflowY="auto" tabIndex={0} role="region" aria-label="The letter">
        {error ? (
          <Text color="declined">{error.message}</Text>
        ) : data ? (
          <TriedLetterView letter={data} />
        ) : (
          <Text color="muted">{good ? 'Loading …' : 'It is shown once nothing is wrong in it.'}</Text>
        )}
      </Box>
      {role !== 'reader' && (
        <Flex gap="2" align="flex-end" mt="3">
          <TextField
            label="Send it as a test to"
            type="email"
            value={to ?? me?.email ?? ''}
            error={acting.problem?.at('/to')}
            onChange={({ target }) => setTo(target.value)}
          />
          <Button
            variant="outline"
            loading={acting.busy}
            disabled={!good || address === ''}
            onClick={() =>
              void acting.act(async () => {
                await post(`${path}/test`, { ...asked, to: address });
              }, `Sent to ${address}. Its links lead nowhere.`)
            }
          >
            Send
          </Button>
        </Flex>
      )}
      <Outcome of={acting} />
    </>
  );
}

function sayRateName(plans: readonly PlanView[], rateId: string): string {
  for (const plan of plans)
    for (const rate of plan.rates) if (rate.id === rateId) return `${plan.name}, ${rate.name}`;
  return 'A rate that is gone';
}
