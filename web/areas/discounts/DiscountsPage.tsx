import { Button, Flex, Text } from '@chakra-ui/react';
import { lazy, useState } from 'react';
import type { DiscountView } from '../../../server/discounts/messages.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage, type Column } from '../../parts/list/ListPage.tsx';

// What stands in the margin is loaded when it is first opened.
const Archive = lazy(() => import('../../parts/Archive.tsx').then((part) => ({ default: part.Archive })));
const CodesOf = lazy(() => import('./CodesOf.tsx').then((part) => ({ default: part.CodesOf })));
const DiscountForm = lazy(() =>
  import('./DiscountForm.tsx').then((part) => ({ default: part.DiscountForm })),
);

const COLUMNS: readonly Column<DiscountView>[] = [
  { heading: 'Discount', sort: 'name', width: '24%', cell: ({ name }) => name },
  { heading: 'What it does', cell: ({ says }) => <span title={says}>{says}</span> },
  {
    heading: 'Codes',
    width: '220px',
    cell: ({ codes, someCodes }) => (codes === 0 ? 'none' : someCodes[0]?.code),
    under: ({ codes, someCodes }) =>
      codes > 1 &&
      `${someCodes
        .slice(1, 3)
        .map(({ code }) => code)
        .join(', ')}${codes > 3 ? ` and ${codes - 3} more` : ''}`,
  },
  {
    heading: 'Used',
    sort: 'used',
    width: '110px',
    right: true,
    cell: ({ used, mostUses }) => (mostUses === null ? used : `${used} of ${mostUses}`),
  },
];

/** Discounts, their codes, and how often they were used. */
export function DiscountsPage() {
  const [chosen, setChosen] = useState<DiscountView | null>(null);
  const [editing, setEditing] = useState<'new' | 'chosen' | null>(null);
  return (
    <PageAndMargin
      title="Discounts"
      action={
        <ForWriters>
          <Button size="sm" colorPalette="kelp" onClick={() => setEditing('new')}>
            Make a discount
          </Button>
        </ForWriters>
      }
      marginLabel="The chosen discount"
      margin={
        editing === 'new' ? (
          <DiscountForm discount={null} onClose={() => setEditing(null)} />
        ) : editing === 'chosen' && chosen ? (
          <DiscountForm
            key={chosen.id}
            discount={chosen}
            onClose={() => (setEditing(null), setChosen(null))}
          />
        ) : chosen ? (
          <Chosen
            key={chosen.id}
            discount={chosen}
            onEdit={() => setEditing('chosen')}
            onGone={() => setChosen(null)}
          />
        ) : null
      }
    >
      <Text color="muted" mb="3">
        A discount is used by a code, at enrolment. What was taken off stays in the terms that were agreed to.
      </Text>
      <ListPage<DiscountView>
        path="/api/discounts"
        label="discounts"
        columns={COLUMNS}
        states={['in use', 'used up', 'archived']}
        empty={<Text>There is no discount yet. Make one, and give it a code.</Text>}
        chosen={chosen?.id ?? null}
        onChoose={(row) => (setEditing(null), setChosen(row))}
      />
    </PageAndMargin>
  );
}

function Chosen(props: { discount: DiscountView; onEdit: () => void; onGone: () => void }) {
  const { discount, onEdit, onGone } = props;
  const archived = discount.archivedOn !== null;
  return (
    <>
      <MarginHeading>{discount.name}</MarginHeading>
      <Text mb="3">{discount.says}.</Text>
      <ForWriters>
        <Flex gap="2" mb="4">
          <Button size="xs" variant="outline" onClick={onEdit}>
            Edit
          </Button>
        </Flex>
      </ForWriters>
      <CodesOf discount={discount} />
      <ForWriters>
        <Archive
          key={discount.id}
          what="discount"
          id={discount.id}
          name={discount.name}
          archived={archived}
          subscribers={discount.used}
          onDone={onGone}
        />
      </ForWriters>
    </>
  );
}
