import { Box, CloseButton, Dialog, Input, Portal, Text } from '@chakra-ui/react';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import type { Found } from '../../server/http/find.ts';
import { withQuery } from '../api/client.ts';
import { useAnswer } from '../api/hooks.ts';
import type { Role } from '../../server/staff/messages.ts';
import { placesFound } from './places.ts';

/** What something was found by, where it is the very one. */
const EXACTLY = { number: 'of this number', 'e-mail': 'of this e-mail', amount: 'of this amount' } as const;

interface Props {
  /** What was typed before it was there. */
  readonly typed: string;
  readonly open: boolean;
  readonly role: Role;
  readonly onClose: () => void;
}

/** Finds anything by a few letters: customers, invoice numbers, plans, amounts, settings and what can be done. */
export default function Find({ typed, open, role, onClose }: Props) {
  const [text, setText] = useState(typed);
  const goesOn = useRef(typed !== '');
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  const { data } = useAnswer<Found[]>(open && text.trim() !== '' ? withQuery('/api/find', { text }) : null);
  const found = text.trim() === '' ? [] : [...placesFound(text, role), ...(data ?? [])];
  const go = (one: Pick<Found, 'path'> | undefined) => {
    if (!one) return;
    onClose();
    setText('');
    void navigate(one.path);
  };
  return (
    <Dialog.Root open={open} onOpenChange={(details) => !details.open && onClose()} placement="top" size="md">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="page" aria-label="Find anything">
            <Dialog.Header pb="2">
              <Dialog.Title fontWeight="500">Find anything</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>
              <Input
                aria-label="A customer, invoice number, plan, amount or setting"
                placeholder="A customer, invoice number, plan, amount or setting"
                value={text}
                // The dialog marks what is in it, which the next letter would replace: what was typed ahead goes on.
                onSelect={({ currentTarget }) => {
                  if (!goesOn.current) return;
                  goesOn.current = false;
                  currentTarget.setSelectionRange(text.length, text.length);
                }}
                onChange={(event) => {
                  setText(event.target.value);
                  setAt(0);
                }}
                onKeyDown={(event) => {
                  if (event.key === 'ArrowDown') setAt(Math.min(at + 1, found.length - 1));
                  else if (event.key === 'ArrowUp') setAt(Math.max(at - 1, 0));
                  else if (event.key === 'Enter') go(found[at]);
                  else return;
                  event.preventDefault();
                }}
              />
              <Box role="listbox" aria-label="Found" mt="3">
                {found.map((one, i) => (
                  <Box
                    key={`${one.path}${one.says}`}
                    role="option"
                    aria-selected={i === at}
                    px="2"
                    py="1.5"
                    borderRadius="sm"
                    cursor="pointer"
                    bg={i === at ? 'kelp.muted' : undefined}
                    onClick={() => go(one)}
                    onMouseEnter={() => setAt(i)}
                  >
                    {one.says}
                    <Box as="span" color="muted" ml="2" fontSize="13px">
                      {one.exactly === null || one.exactly === 'name'
                        ? one.kind
                        : `${one.kind} ${EXACTLY[one.exactly]}`}
                      {one.detail ? `, ${one.detail}` : ''}
                    </Box>
                  </Box>
                ))}
                {text.trim() !== '' && data && found.length === 0 && (
                  <Text color="muted">Nothing found.</Text>
                )}
              </Box>
            </Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
