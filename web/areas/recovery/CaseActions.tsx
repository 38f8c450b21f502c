import { Box, Button, Flex, Menu, Portal } from '@chakra-ui/react';
import { ChevronDown } from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { CaseDetail } from '../../../server/recovery/messages.ts';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { AreaField } from '../../parts/TextField.tsx';
import { ActForm, type ActKind } from './ActForm.tsx';

const MORE = {
  'set aside': 'Set it aside until …',
  assign: 'Give it to a person …',
  'climb by': 'Put it on another ladder …',
  call: 'Note a call …',
  'give up': 'Give it up …',
} as const;
type More = keyof typeof MORE;

/** What is done with one case: the most used in sight, the others in one menu. */
export function CaseActions({ found }: { readonly found: CaseDetail }) {
  const [doing, setDoing] = useState<ActKind | 'call' | null>(null);
  const navigate = useNavigate();
  const isOpen = found.state === 'open';
  const more = (Object.keys(MORE) as More[]).filter((kind) => isOpen || kind === 'call');
  return (
    <Box mt="3">
      <Flex gap="2" wrap="wrap">
        {isOpen && found.collects === 'automatic' && (
          <Button size="xs" variant="outline" onClick={() => setDoing('try')}>
            Try now
          </Button>
        )}
        {isOpen && (
          <Button size="xs" variant="outline" onClick={() => setDoing('write')}>
            Write
          </Button>
        )}
        {found.owed !== '0' && (
          <Button
            size="xs"
            variant="outline"
            onClick={() => void navigate(`/customers/${found.customerId}/take`)}
          >
            Take a payment
          </Button>
        )}
        <Menu.Root onSelect={({ value }) => setDoing(value as More)} lazyMount>
          <Menu.Trigger asChild>
            <Button size="xs" variant="outline">
              More <ChevronDown size={12} aria-hidden />
            </Button>
          </Menu.Trigger>
          <Portal>
            <Menu.Positioner>
              <Menu.Content bg="page">
                {more.map((kind) => (
                  <Menu.Item key={kind} value={kind}>
                    {MORE[kind]}
                  </Menu.Item>
                ))}
              </Menu.Content>
            </Menu.Positioner>
          </Portal>
        </Menu.Root>
      </Flex>
      {doing === 'call' && <NoteCall id={found.id} onDone={() => setDoing(null)} />}
      {doing !== null && doing !== 'call' && (
        <ActForm key={doing} kind={doing} ids={[found.id]} onClose={() => setDoing(null)} />
      )}
    </Box>
  );
}

/** What was said on the telephone stays with the case. */
function NoteCall({ id, onDone }: { readonly id: string; readonly onDone: () => void }) {
  const [says, setSays] = useState('');
  const acting = useAct();
  const keep = async () => {
    if (await acting.act(() => post(`/api/cases/${id}/notes`, { kind: 'call', says }))) onDone();
  };
  return (
    <Box mt="3" role="group" aria-label="Note a call">
      <AreaField
        label="What was said"
        maxLength={4000}
        rows={3}
        value={says}
        error={acting.problem?.at('/says')}
        onChange={(event) => setSays(event.target.value)}
      />
      <Flex gap="2" mt="2">
        <Button
          size="xs"
          colorPalette="kelp"
          loading={acting.busy}
          disabled={says.trim() === ''}
          onClick={() => void keep()}
        >
          Keep it
        </Button>
        <Button size="xs" variant="outline" onClick={onDone}>
          Leave it
        </Button>
      </Flex>
      <Outcome of={acting} />
    </Box>
  );
}
