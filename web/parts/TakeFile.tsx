import { Box, Input, Text } from '@chakra-ui/react';
import { useId, useState } from 'react';
import { Problem, upload, withQuery } from '../api/client.ts';

/** Takes a picture or a document from this device, and keeps it at the server. */
export function TakeFile(props: {
  readonly label: string;
  readonly kind: 'picture' | 'document';
  readonly accept: string;
  readonly most: number;
  readonly onTaken: (taken: { id: string; address: string; name: string }) => void;
}) {
  const { label, kind, accept, most, onTaken } = props;
  const id = useId();
  const [says, setSays] = useState('');
  const [busy, setBusy] = useState(false);
  const take = async (file: File | undefined) => {
    if (!file) return;
    setSays('');
    if (file.size > most) return setSays(`At most ${most / 1_000_000} MB.`);
    setBusy(true);
    try {
      const path = withQuery(`/api/uploads/${kind}`, { name: file.name });
      onTaken({ ...(await upload<{ id: string; address: string }>(path, file)), name: file.name });
    } catch (error) {
      setSays(error instanceof Problem ? error.message : 'The file was not taken.');
    } finally {
      setBusy(false);
    }
  };
  return (
    <Box maxW="320px">
      <label htmlFor={id}>
        <Text fontWeight="500">{label}</Text>
      </label>
      <Input
        id={id}
        type="file"
        size="sm"
        pt="1"
        accept={accept}
        disabled={busy}
        onChange={(event) => void take(event.target.files?.[0])}
      />
      <Text role="alert" color="declined">
        {says}
      </Text>
    </Box>
  );
}
