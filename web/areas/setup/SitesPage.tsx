import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { TextField } from '../../parts/TextField.tsx';
import { faultAt, SectionForm } from './SectionForm.tsx';

/** The business's own sites, which may show sign-up pages in frames. */
export function SitesPage() {
  return (
    <SectionForm
      name="sites"
      title="Sites"
      margin={(value) => (
        <>
          <MarginHeading>What this does</MarginHeading>
          <Text mb="3">
            {value.origins.length === 0
              ? 'No other site may show a sign-up page inside of its own: browsers refuse it.'
              : 'Pages of these sites may show sign-up pages inside of theirs. All others are refused by browsers, so that nobody can lay something over a form in which cards are typed.'}
          </Text>
          <Text>Only sign-up pages may be shown so; the desk and customers’ own pages never are.</Text>
        </>
      )}
    >
      {(form, value) => (
        <Box>
          {value.origins.map((_, i) => (
            <Flex key={i} gap="3" align="flex-start" mb="3">
              <TextField
                label={`Site ${i + 1}`}
                placeholder="https://www.fenmarsh.example"
                maxLength={300}
                error={faultAt(form, `origins.${i}`)}
                {...form.register(`origins.${i}`)}
              />
              <Button
                mt="6"
                size="xs"
                variant="ghost"
                onClick={() =>
                  form.setValue(
                    'origins',
                    value.origins.filter((_one, j) => j !== i),
                    { shouldDirty: true },
                  )
                }
              >
                Take out
              </Button>
            </Flex>
          ))}
          <Text role="alert" color="declined">
            {faultAt(form, 'origins')}
          </Text>
          <Button
            size="xs"
            variant="outline"
            onClick={() => form.setValue('origins', [...value.origins, ''], { shouldDirty: true })}
          >
            Name a site
          </Button>
        </Box>
      )}
    </SectionForm>
  );
}
