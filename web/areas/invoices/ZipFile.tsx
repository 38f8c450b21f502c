import { Button, Flex, Progress, Text } from '@chakra-ui/react';
import { useRef, useState } from 'react';
import { withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { saveFile } from '../../api/takeFile.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { DateField } from '../../parts/DateField.tsx';
import { sayCount } from '../../parts/sayCount.ts';
import { readZip } from './readZip.ts';

/** All invoices and credit notes of some days, as one file of PDFs: how many there are, and how far it is. */
export function ZipFile() {
  const { businessDate } = useFrame();
  const [from, setFrom] = useState(`${businessDate.slice(0, 7)}-01`);
  const [until, setUntil] = useState(businessDate);
  const [files, setFiles] = useState<number | null>(null);
  const [says, setSays] = useState('');
  const stop = useRef<AbortController | null>(null);
  const isGood = from !== '' && until !== '' && from <= until;
  const { data } = useAnswer<{ documents: number }>(
    isGood ? withQuery('/api/documents/count', { from, until }) : null,
  );
  const count = isGood ? (data?.documents ?? 0) : 0;
  const take = async () => {
    const stopping = new AbortController();
    stop.current = stopping;
    setFiles(0);
    setSays('');
    try {
      const response = await fetch(withQuery('/api/documents.zip', { from, until }), {
        signal: stopping.signal,
      });
      if (!response.ok || !response.body) {
        const { detail } = (await response.json().catch(() => ({}))) as { detail?: string };
        throw new Error(detail ?? 'The file could not be made.');
      }
      saveFile(await readZip(response.body, setFiles), `documents ${from} to ${until}.zip`);
      setSays(`${sayCount(count)} documents are saved.`);
    } catch (error) {
      setSays(stopping.signal.aborted ? 'Stopped: nothing was saved.' : (error as Error).message);
    } finally {
      setFiles(null);
    }
  };
  return (
    <>
      <MarginHeading>Documents as one file</MarginHeading>
      <Flex direction="column" gap="3">
        <DateField
          label="Issued from"
          field="from"
          value={from}
          onChange={(event) => setFrom(event.target.value)}
        />
        <DateField
          label="Until"
          field="until"
          min={from}
          value={until}
          onChange={(event) => setUntil(event.target.value)}
        />
      </Flex>
      <Text mt="3" mb="3" role="status">
        {isGood ? `${sayCount(count)} invoices and credit notes, each as a PDF.` : 'Choose the days.'}
      </Text>
      {files === null ? (
        <Button size="sm" colorPalette="kelp" disabled={count === 0} onClick={() => void take()}>
          Make the file
        </Button>
      ) : (
        <>
          <Progress.Root value={files} max={Math.max(1, count)} size="sm" colorPalette="kelp">
            <Progress.Label>
              {sayCount(files)} of {sayCount(count)}
            </Progress.Label>
            <Progress.Track mt="1">
              <Progress.Range />
            </Progress.Track>
          </Progress.Root>
          <Button size="sm" variant="outline" mt="3" onClick={() => stop.current?.abort()}>
            Stop
          </Button>
        </>
      )}
      <Text mt="2" role="status">
        {says}
      </Text>
    </>
  );
}
