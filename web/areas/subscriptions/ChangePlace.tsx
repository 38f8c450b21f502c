import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { Place } from '../../../server/customers/placeMessages.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import { put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { NO_PLACE, PlaceFields } from '../../parts/PlaceFields.tsx';

interface Props {
  readonly id: string;
  readonly place: Place | null;
  readonly onClose: () => void;
}

/** Changes where a subscription is served or shipped to. */
export default function ChangePlace(props: Props) {
  const { data: form } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  return form ? <PlaceForm {...props} homeCountry={form.law.homeCountry} /> : null;
}

function PlaceForm({ id, place, onClose, homeCountry }: Props & { readonly homeCountry: string }) {
  const [draft, setDraft] = useState<Place>(() => placeOf(place) ?? { ...NO_PLACE, country: homeCountry });
  const acting = useAct();
  const store = async (to: Place | null) => {
    if (await acting.act(() => put(`/api/subscriptions/${id}/place`, { place: to }))) onClose();
  };
  return (
    <Box
      role="group"
      aria-label="Where it is served"
      borderWidth="1px"
      borderColor="lines"
      borderRadius="md"
      bg="page"
      p="4"
      my="2"
    >
      <PlaceFields
        field="place"
        place={draft}
        offered={[]}
        faultAt={(member) => acting.problem?.at(`/place/${member}`)}
        onChange={setDraft}
      />
      <Text color="muted" mt="2" fontSize="13px">
        Invoices from now on carry it, and their taxes are those of the place. What is issued stays as it is.
      </Text>
      <Flex gap="2" mt="2" wrap="wrap">
        <Button size="xs" colorPalette="kelp" loading={acting.busy} onClick={() => void store(draft)}>
          Store it
        </Button>
        {place && (
          <Button size="xs" variant="outline" loading={acting.busy} onClick={() => void store(null)}>
            Where the customer lives
          </Button>
        )}
        <Button size="xs" variant="outline" onClick={onClose}>
          Leave it
        </Button>
      </Flex>
      <Outcome of={acting} />
    </Box>
  );
}

/** A place with nothing beside it, such as what it is called in words: so it is sent. */
function placeOf(place: Place | null): Place | null {
  if (place === null) return null;
  const { name, address, postcode, region, country } = place;
  return { name, address, postcode, region, country };
}
