import { Box, Button, Flex, RadioGroup, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { sayDate } from '../../../core/words/date.ts';
import {
  POLICY_KINDS,
  policySchema,
  STARTING_TEXTS,
  type PolicyKind,
  type PolicyView,
} from '../../../server/policies/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayInstant } from '../../parts/sayInstant.ts';
import { AreaField, TextField } from '../../parts/TextField.tsx';
import { DateField } from '../../parts/DateField.tsx';

const TITLES: Readonly<Record<PolicyKind, string>> = {
  'terms of service': 'Terms of service',
  cancellation: 'Cancellation',
  refund: 'Refunds',
};

/** The texts that customers agree to, in versions. */
export function PoliciesPage() {
  const { role } = useFrame();
  const { data: policies } = useAnswer<PolicyView[]>('/api/policies');
  const [writing, setWriting] = useState<PolicyKind | null>(null);
  const [shown, setShown] = useState<string | null>(null);
  const acting = useAct();
  const chosen =
    policies?.find(({ id }) => id === shown) ??
    POLICY_KINDS.flatMap((kind) => policies?.filter((one) => one.kind === kind && one.inForce) ?? [])[0];
  return (
    <PageAndMargin
      title="Policies"
      margin={
        writing ? (
          <Writer
            key={writing}
            kind={writing}
            newest={policies?.find(({ kind }) => kind === writing)}
            onClose={() => setWriting(null)}
          />
        ) : chosen ? (
          <>
            <MarginHeading>
              {TITLES[chosen.kind]}, version {chosen.version}
            </MarginHeading>
            <Text color="muted" fontSize="13px">
              Written by {chosen.writtenBy}, {sayInstant(chosen.writtenAt)}. Agreed to with {chosen.agreed}{' '}
              mandates.
            </Text>
            {chosen.source && (
              <>
                <Text mt="2" overflowWrap="anywhere">
                  Copied from {chosen.source}
                </Text>
                <Text color={chosen.check && !chosen.check.same ? 'trial' : 'muted'}>
                  {chosen.check === null
                    ? 'The address has not been looked at since.'
                    : chosen.check.same
                      ? 'The address answers with the same text.'
                      : chosen.check.says}
                </Text>
                <Button
                  size="xs"
                  mt="1"
                  variant="outline"
                  loading={acting.busy}
                  onClick={() => void acting.act(() => post(`/api/policies/${chosen.id}/check`))}
                >
                  Look again
                </Button>
                <Outcome of={acting} />
              </>
            )}
            <Text whiteSpace="pre-wrap" mt="3" overflowWrap="anywhere">
              {chosen.text}
            </Text>
          </>
        ) : (
          <Text color="muted">
            Every mandate keeps the version that it agreed to. Texts given as an address are copied.
          </Text>
        )
      }
    >
      {POLICY_KINDS.map((kind) => {
        const versions = policies?.filter((policy) => policy.kind === kind) ?? [];
        return (
          <Box as="section" key={kind} mb="6" maxW="760px">
            <Flex align="baseline" borderBottomWidth="1px" borderColor="lines" pb="1">
              <Text as="h2" fontFamily="heading" fontSize="17px">
                {TITLES[kind]}
              </Text>
              {role === 'owner' && (
                <Button ml="auto" size="xs" variant="outline" onClick={() => setWriting(kind)}>
                  {versions.length === 0 ? 'Write it' : 'Write a new version'}
                </Button>
              )}
            </Flex>
            {versions.length === 0 && <Text color="muted">None yet.</Text>}
            {versions.map((policy) => (
              <Button
                key={policy.id}
                variant="ghost"
                size="sm"
                w="full"
                justifyContent="flex-start"
                fontWeight="400"
                aria-pressed={policy.id === chosen?.id}
                bg={policy.id === chosen?.id && !writing ? 'kelp.subtle' : undefined}
                onClick={() => {
                  setWriting(null);
                  setShown(policy.id);
                }}
              >
                Version {policy.version}
                <Box as="span" color="muted">
                  from {sayDate(policy.effectiveOn)}
                  {policy.inForce ? ', in force' : ''}
                  {policy.source ? ', copied from an address' : ''}
                </Box>
                <Box as="span" ml="auto" color="muted">
                  {policy.agreed} mandates
                </Box>
              </Button>
            ))}
          </Box>
        );
      })}
    </PageAndMargin>
  );
}

function Writer(props: {
  readonly kind: PolicyKind;
  readonly newest: PolicyView | undefined;
  readonly onClose: () => void;
}) {
  const { kind, newest, onClose } = props;
  const { businessDate } = useFrame();
  const [how, setHow] = useState<'text' | 'address'>(newest?.source ? 'address' : 'text');
  const [text, setText] = useState(newest?.source ? '' : (newest?.text ?? ''));
  const [source, setSource] = useState(newest?.source ?? '');
  const [effectiveOn, setEffectiveOn] = useState(businessDate);
  const [faults, setFaults] = useState<Readonly<Record<string, string>>>({});
  const acting = useAct();
  const store = async () => {
    const given = {
      kind,
      text: how === 'text' ? text : '',
      source: how === 'address' ? source.trim() : '',
      effectiveOn,
    };
    const parsed = policySchema.safeParse(given);
    setFaults(
      parsed.success
        ? {}
        : Object.fromEntries(parsed.error.issues.map(({ path, message }) => [path.join('/'), message])),
    );
    if (parsed.success && (await acting.act(() => post('/api/policies', parsed.data)))) onClose();
  };
  return (
    <>
      <MarginHeading>
        {TITLES[kind]}, version {(newest?.version ?? 0) + 1}
      </MarginHeading>
      <RadioGroup.Root
        value={how}
        onValueChange={({ value }) => setHow(value as 'text' | 'address')}
        aria-label="How the text is given"
        colorPalette="kelp"
        mb="3"
      >
        <Flex gap="4">
          {(['text', 'address'] as const).map((value) => (
            <RadioGroup.Item key={value} value={value}>
              <RadioGroup.ItemHiddenInput />
              <RadioGroup.ItemIndicator />
              <RadioGroup.ItemText>{value === 'text' ? 'As text' : 'From an address'}</RadioGroup.ItemText>
            </RadioGroup.Item>
          ))}
        </Flex>
      </RadioGroup.Root>
      {how === 'text' ? (
        <>
          <AreaField
            label="Text"
            rows={14}
            value={text}
            error={faults.text ?? acting.problem?.at('/text')}
            onChange={(event) => setText(event.target.value)}
          />
          {text === '' && (
            <Button size="xs" mt="2" variant="outline" onClick={() => setText(STARTING_TEXTS[kind])}>
              Begin with a plain text
            </Button>
          )}
        </>
      ) : (
        <TextField
          label="Address"
          type="url"
          placeholder="https://"
          value={source}
          hint="The text is copied and kept, whatever becomes of the address."
          error={faults.source ?? faults.text ?? acting.problem?.at('/source')}
          onChange={(event) => setSource(event.target.value)}
        />
      )}
      <Box mt="3">
        <DateField
          label="In force from"
          min={businessDate}
          value={effectiveOn}
          error={faults.effectiveOn ?? acting.problem?.at('/effectiveOn')}
          onChange={(event) => setEffectiveOn(event.target.value)}
        />
      </Box>
      <Text color="muted" mt="3">
        {newest && newest.agreed > 0
          ? `${newest.agreed} mandates stay with the version they agreed to.`
          : 'Mandates given from that day on keep this version.'}
      </Text>
      <Flex gap="2" mt="4">
        <Button size="sm" colorPalette="kelp" loading={acting.busy} onClick={() => void store()}>
          Store the version
        </Button>
        <Button size="sm" variant="outline" onClick={onClose}>
          Leave it
        </Button>
      </Flex>
      <Outcome of={acting} />
    </>
  );
}
