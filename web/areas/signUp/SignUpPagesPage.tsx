import { Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { SignUpPageRow } from '../../../server/signUp/messages.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage, type Column } from '../../parts/list/ListPage.tsx';
import { SwitchOn } from './SwitchOn.tsx';

const sayMonthly = (monthly: SignUpPageRow['monthly']) =>
  monthly.map(({ currency, amount }) => sayAmount(BigInt(amount), currency)).join(', ');

const COLUMNS: readonly Column<SignUpPageRow>[] = [
  {
    heading: 'Page',
    sort: 'title',
    cell: ({ title }) => title,
    under: ({ key, plans }) => `/join/${key} · ${plans}`,
  },
  { heading: 'State', width: '150px', cell: ({ state }) => state },
  { heading: 'Seen', sort: 'seen', width: '90px', right: true, cell: ({ seen }) => seen },
  {
    heading: 'Joined',
    sort: 'joined',
    width: '120px',
    right: true,
    cell: ({ joined, places }) => (places === null ? joined : `${joined} of ${places}`),
  },
  { heading: 'A month', width: '150px', right: true, cell: ({ monthly }) => sayMonthly(monthly) },
];

/** Pages on which customers join by themselves, with what each brings. */
export function SignUpPagesPage() {
  const [chosen, setChosen] = useState<SignUpPageRow | null>(null);
  return (
    <PageAndMargin
      title="Sign-up pages"
      action={
        <ForWriters>
          <Button size="sm" colorPalette="kelp" asChild>
            <Link to="/sign-up-pages/new">Make a page</Link>
          </Button>
        </ForWriters>
      }
      marginLabel="The chosen page"
      margin={chosen ? <Chosen key={chosen.id} row={chosen} onDone={() => setChosen(null)} /> : null}
    >
      <ListPage<SignUpPageRow>
        path="/api/sign-up-pages"
        label="pages"
        columns={COLUMNS}
        states={['on', 'closed', 'archived']}
        empty={
          <Text>
            There is no page yet. A page sells by itself: choose rates, give it a title, and share its
            address.
          </Text>
        }
        chosen={chosen?.id ?? null}
        onChoose={setChosen}
      />
    </PageAndMargin>
  );
}

function Chosen({ row, onDone }: { readonly row: SignUpPageRow; readonly onDone: () => void }) {
  const { id, key, title, state, until, places, joined, seen, monthly, archivedOn } = row;
  return (
    <>
      <MarginHeading>{title}</MarginHeading>
      <Text>
        {state === 'on' ? 'Customers can join here.' : `Nobody can join here: ${state}.`}{' '}
        {until !== null && `Until ${sayDate(until)}. `}
        {places !== null && `${places - joined} of ${places} places are left.`}
      </Text>
      <Text mt="2" mb="4">
        Seen {seen} times in 90 days; {joined} joined
        {monthly.length > 0 && `, who bring ${sayMonthly(monthly)} a month`}.
      </Text>
      <Flex gap="2" wrap="wrap">
        <Button size="xs" variant="outline" asChild>
          <Link to={`/sign-up-pages/${id}`}>Open: share, try, numbers</Link>
        </Button>
        <ForWriters>
          <Button size="xs" variant="outline" asChild>
            <Link to={`/sign-up-pages/${id}/edit`}>Edit</Link>
          </Button>
          {archivedOn === null && <SwitchOn id={id} isOn={state !== 'off'} onDone={onDone} />}
        </ForWriters>
      </Flex>
      <Text mt="4">
        <TextLink href={`/join/${key}`} target="_blank" color="kelp.fg">
          /join/{key}
        </TextLink>
      </Text>
    </>
  );
}
