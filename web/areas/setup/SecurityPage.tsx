import { Box, Text } from '@chakra-ui/react';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { SelectField } from '../../parts/TextField.tsx';
import { CountField, faultAt, SectionForm } from './SectionForm.tsx';

/** How staff are kept safe: who needs a second factor, and when a session that nobody uses ends. */
export function SecurityPage() {
  return (
    <SectionForm
      name="security"
      title="Security"
      margin={(value) => (
        <>
          <MarginHeading>What this does</MarginHeading>
          <Text mb="3">
            {value.demandFactor === 'nobody'
              ? 'A password alone lets anybody in who has learned it. Owners may do everything: they are urged to have a second factor.'
              : `${value.demandFactor === 'owners' ? 'Owners' : 'Everybody'} without a second factor can open their own page and nothing else until they have one, from the moment this is stored. That counts for you too.`}
          </Text>
          <Text>
            People, keys, gateways, mail and this page ask for the password again a quarter of an hour after
            one has signed in.
          </Text>
        </>
      )}
    >
      {(form) => (
        <>
          <SelectField
            label="A second factor is needed by"
            error={faultAt(form, 'demandFactor')}
            {...form.register('demandFactor')}
          >
            <option value="nobody">nobody: each may have one</option>
            <option value="owners">owners</option>
            <option value="everybody">everybody</option>
          </SelectField>
          <Box w="300px">
            <CountField
              form={form}
              path="idleMinutes"
              label="Minutes unused until a session ends"
              least={5}
              most={720}
              hint="Every session ends after twelve hours."
            />
          </Box>
        </>
      )}
    </SectionForm>
  );
}
