import { Box, Button, Flex, Input, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { ListView } from '../../../server/staff/viewMessages.ts';
import { put, remove } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../Outcome.tsx';
import { TickField } from '../TickField.tsx';
import type { Column } from './VirtualTable.tsx';

type Headed = Pick<Column<never>, 'heading'>;

interface Props {
  readonly list: string;
  readonly saved: readonly ListView[];
  readonly all: readonly Headed[];
  readonly shown: readonly Headed[];
  /** What is asked of the list now. */
  readonly asked: Readonly<Record<string, string>>;
  readonly onTake: (view: Pick<ListView, 'name' | 'asked'>) => void;
}

/** Chooses the columns of a list, and keeps what one looks for in it under a name, for oneself. */
export function Views({ list, saved, all, shown, asked, onTake }: Props) {
  const [name, setName] = useState('');
  const acting = useAct();
  const headings = shown.map(({ heading }) => heading);
  const save = (columns: readonly string[], under: string, of: Readonly<Record<string, string>>) =>
    acting.act(
      () => put('/api/views', { list, name: under, asked: of, columns }),
      under === '' ? '' : `Saved: ${under}.`,
    );
  const toggle = (heading: string, on: boolean) =>
    save(
      all.map((column) => column.heading).filter((one) => (one === heading ? on : headings.includes(one))),
      '',
      {},
    );
  const keep = async () => {
    const under = name.trim();
    if (under === '' || !(await save(headings, under, asked))) return;
    setName('');
    onTake({ name: under, asked });
  };
  const named = saved.filter((view) => view.name !== '');
  return (
    <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" px="4" py="3" mb="3">
      <Flex role="group" aria-label="Columns" gap="4" wrap="wrap" align="center">
        <Text color="muted">Columns</Text>
        {all.map(({ heading }) => (
          <TickField
            key={heading}
            label={heading}
            checked={headings.includes(heading)}
            disabled={headings.length === 1 && headings[0] === heading}
            onChange={(on) => void toggle(heading, on)}
          />
        ))}
      </Flex>
      <Flex role="group" aria-label="Saved views" gap="2" wrap="wrap" align="center" mt="2">
        <Text color="muted">Views</Text>
        <Button size="2xs" variant="outline" onClick={() => onTake({ name: '', asked: {} })}>
          As it opens
        </Button>
        {named.map((view) => (
          <Flex key={view.id} gap="0.5">
            <Button size="2xs" variant="outline" onClick={() => onTake(view)}>
              {view.name}
            </Button>
            <Button
              size="2xs"
              variant="ghost"
              aria-label={`Leave out the view ${view.name}`}
              onClick={() =>
                void acting.act(() => remove(`/api/views/${view.id}`), `Left out: ${view.name}.`)
              }
            >
              ×
            </Button>
          </Flex>
        ))}
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void keep();
          }}
        >
          <Flex gap="2" align="center">
            <Input
              size="xs"
              w="180px"
              aria-label="Name of a view"
              placeholder="Save what is shown as …"
              maxLength={60}
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <Button
              type="submit"
              size="2xs"
              variant="outline"
              disabled={name.trim() === ''}
              loading={acting.busy}
            >
              Save it
            </Button>
          </Flex>
        </form>
      </Flex>
      <Outcome of={acting} />
    </Box>
  );
}
