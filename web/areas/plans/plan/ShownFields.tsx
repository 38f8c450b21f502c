import { Box, Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { TakeFile } from '../../../parts/TakeFile.tsx';
import { TextField } from '../../../parts/TextField.tsx';
import { Part } from '../../../parts/Part.tsx';
import type { PlanDraft } from './planDraft.ts';

interface Props {
  readonly picture: PlanDraft['picture'];
  readonly documents: PlanDraft['documents'];
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (to: Partial<Pick<PlanDraft, 'picture' | 'documents'>>) => void;
}

/** What customers see of a plan beside its words: a picture, and documents to read. */
export function ShownFields({ picture, documents, faultAt, onChange }: Props) {
  return (
    <Part title="Picture and documents">
      <Flex gap="4" align="center" mb="3">
        {picture ? (
          <img src={picture.at} alt="Of the plan" style={{ maxWidth: 160, maxHeight: 96, borderRadius: 4 }} />
        ) : (
          <Text color="muted">No picture.</Text>
        )}
        <TakeFile
          label="Picture"
          kind="picture"
          accept="image/png,image/jpeg,image/webp,image/svg+xml"
          most={1_000_000}
          onTaken={({ id, address }) => onChange({ picture: { id, at: `/pictures/${address}` } })}
        />
        {picture && (
          <Button size="xs" variant="ghost" onClick={() => onChange({ picture: null })}>
            Take it out
          </Button>
        )}
      </Flex>
      <Documents documents={documents} faultAt={faultAt} onChange={(to) => onChange({ documents: to })} />
    </Part>
  );
}

/** Documents that somebody is given to read, each with a name. */
export function Documents({
  documents,
  faultAt,
  onChange,
}: Pick<Props, 'documents' | 'faultAt'> & { readonly onChange: (to: Props['documents']) => void }) {
  return (
    <>
      {documents.map((document, i) => (
        <Flex key={document.upload} gap="3" mb="2" align="flex-start">
          <Box w="300px">
            <TextField
              label={`Document ${i + 1}`}
              maxLength={120}
              value={document.name}
              error={faultAt(`/documents/${i}/name`)}
              onChange={(event) =>
                onChange(documents.map((one, j) => (j === i ? { ...one, name: event.target.value } : one)))
              }
            />
          </Box>
          <TextLink href={document.at} mt="7" color="kelp.fg">
            open
          </TextLink>
          <Button
            mt="6"
            size="xs"
            variant="ghost"
            onClick={() => onChange(documents.filter((_, j) => j !== i))}
          >
            Take out
          </Button>
        </Flex>
      ))}
      <TakeFile
        label="Add a document (PDF)"
        kind="document"
        accept="application/pdf"
        most={5_000_000}
        onTaken={({ id, address, name }) =>
          onChange([
            ...documents,
            { upload: id, name: name.replace(/\.pdf$/i, ''), at: `/documents/${address}` },
          ])
        }
      />
    </>
  );
}
