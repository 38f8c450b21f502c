import {
  Box,
  Button,
  Flex,
  Input,
  Link as TextLink,
  NativeSelect,
  Progress,
  Table,
  Text,
} from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import useSWR from 'swr';
import {
  calledField,
  faultsOfMapping,
  fieldsWith,
  type ImportedField,
  type Mapping,
} from '../../../server/imports/mappingMessages.ts';
import type { ImportView, PreviewRow } from '../../../server/imports/messages.ts';
import { sayDate } from '../../../core/words/date.ts';
import { post, remove, type Problem } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayCount } from '../../parts/sayCount.ts';

const isUnderWay = (view: ImportView | undefined) =>
  view?.state === 'checking' || view?.state === 'importing';

/** One file of customers: what its columns are, what would come of it, and bringing it in. */
export function ImportPage() {
  const { id = '' } = useParams();
  const { data: view, error } = useAnswer<ImportView>(`/api/imports/${id}`, {
    refreshMs: (latest) => (isUnderWay(latest) ? 700 : 0),
  });
  if (error) return <PageAndMargin title="There is no such file">{error.message}</PageAndMargin>;
  if (!view || view.id !== id) return <PageLoading title="Bring in customers" shape="form" />;
  return <File key={id} view={view} />;
}

function File({ view }: { readonly view: ImportView }) {
  const { id, name, header, state } = view;
  const [mapping, setMapping] = useState<Mapping>(view.mapping);
  const acting = useAct();
  const navigate = useNavigate();
  const path = `/api/imports/${id}`;
  const faults = new Map(
    faultsOfMapping(mapping, header, view.ownFields).map(({ field, says }) => [field, says]),
  );
  const isSame = inOrder(mapping) === inOrder(view.mapping);
  const busy = isUnderWay(view);
  const isChecked = state === 'checked' && isSame && view.report !== null;
  const isGood = isChecked && view.report?.problems.length === 0;
  const set = (field: ImportedField, from: Mapping[ImportedField]) =>
    setMapping((now) =>
      Object.fromEntries(
        fieldsWith(view.ownFields).flatMap((one) => {
          const kept = one === field ? from : now[one];
          return kept === undefined ? [] : [[one, kept]];
        }),
      ),
    );
  return (
    <PageAndMargin
      title={name}
      marginLabel="What comes of it"
      margin={
        <>
          {state === 'done' ? (
            <Done view={view} />
          ) : (
            <>
              {isChecked && <Report view={view} />}
              {view.says !== '' && state === 'broken' && (
                <Text role="alert" color="declined" mb="3">
                  {view.says}
                </Text>
              )}
              {busy && <Going view={view} />}
              {!isChecked && !busy && (
                <Text color="muted" mb="3">
                  A check goes through the whole file and says what would come of it. Nothing is stored by it.
                </Text>
              )}
              <Flex gap="2" mt="4" wrap="wrap">
                {isGood ? (
                  <Button
                    colorPalette="kelp"
                    disabled={busy}
                    loading={acting.busy}
                    onClick={() => void acting.act(() => post(`${path}/start`, { mapping }))}
                  >
                    Bring them in
                  </Button>
                ) : (
                  <Button
                    colorPalette="kelp"
                    disabled={faults.size > 0 || busy}
                    loading={acting.busy}
                    onClick={() => void acting.act(() => post(`${path}/check`, { mapping }))}
                  >
                    {isChecked ? 'Check again' : 'Check the file'}
                  </Button>
                )}
                {!busy && (
                  <Button
                    variant="outline"
                    onClick={() =>
                      void acting.act(async () => {
                        await remove(path);
                        await navigate('/import');
                      })
                    }
                  >
                    Forget this file
                  </Button>
                )}
              </Flex>
              <Outcome of={acting} />
            </>
          )}
        </>
      }
    >
      {state === 'done' ? (
        <Text>
          It is brought in.{' '}
          <TextLink asChild color="kelp.fg">
            <Link to="/customers">See the customers</Link>
          </TextLink>
        </Text>
      ) : (
        <>
          <Text mb="3" color="muted">
            {view.isRemembered
              ? 'The columns are understood as in the last file with the same headings.'
              : 'What the columns are called says what they may be: look through them.'}
          </Text>
          <Box role="group" aria-label="Columns" maxW="760px">
            {fieldsWith(view.ownFields).map((field) => (
              <FieldSource
                key={field}
                field={field}
                view={view}
                from={mapping[field]}
                fault={faults.get(field)}
                disabled={busy}
                onChange={(from) => set(field, from)}
              />
            ))}
          </Box>
          {faults.size === 0 && <Preview view={view} mapping={mapping} />}
        </>
      )}
    </PageAndMargin>
  );
}

/** A mapping as it can be held against another one. */
const inOrder = (mapping: Mapping) =>
  JSON.stringify(Object.entries(mapping).sort(([a], [b]) => (a < b ? -1 : 1)));

const HINTS: Partial<Record<ImportedField, string>> = {
  reference: 'Without one, each is known by the e-mail address.',
  plan: 'Its name here. Without a plan only customers are brought in.',
  rate: 'The name of a rate of the plan.',
  starts: 'The next charge of who pays already: nothing before it is charged.',
};

const NOTHING = '';
const FOR_ALL = ' all';

/** Where one field comes from: a column, with its first values, or one value for everybody. */
function FieldSource(props: {
  readonly field: ImportedField;
  readonly view: ImportView;
  readonly from: Mapping[ImportedField];
  readonly fault: string | undefined;
  readonly disabled: boolean;
  readonly onChange: (from: Mapping[ImportedField]) => void;
}) {
  const { field, view, from, fault, disabled, onChange } = props;
  const { header, sample } = view;
  const isColumn = from !== undefined && 'column' in from;
  const at = isColumn ? header.indexOf(from.column) : -1;
  const values = at < 0 ? [] : sample.map((row) => row[at] ?? '').filter((cell) => cell !== '');
  const mayBeSame = !['reference', 'name', 'email', 'card_token'].includes(field);
  const label = calledField(field);
  return (
    <Flex gap="4" py="1" align="center" borderBottomWidth="1px" borderColor="lines" data-field={field}>
      <Text w="170px" flexShrink={0} fontWeight="500">
        {label}
      </Text>
      <NativeSelect.Root size="sm" w="250px" flexShrink={0} disabled={disabled} invalid={fault !== undefined}>
        <NativeSelect.Field
          bg="page"
          aria-label={label}
          aria-describedby={`of-${field}`}
          value={from === undefined ? NOTHING : 'column' in from ? `:${from.column}` : FOR_ALL}
          onChange={({ target: { value } }) =>
            onChange(
              value === NOTHING ? undefined : value === FOR_ALL ? { value: '' } : { column: value.slice(1) },
            )
          }
        >
          <option value={NOTHING}>not in this file</option>
          {mayBeSame && <option value={FOR_ALL}>the same for everybody …</option>}
          {header.map((heading, i) => (
            <option key={i} value={`:${heading}`}>
              {heading === '' ? `column ${i + 1}` : heading}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <Box id={`of-${field}`} flex="1" minW="0" fontSize="13px" color="muted">
        {from !== undefined && 'value' in from && (
          <Input
            size="sm"
            bg="page"
            w="240px"
            aria-label={`${label} of everybody`}
            maxLength={200}
            disabled={disabled}
            value={from.value}
            onChange={({ target }) => onChange({ value: target.value })}
          />
        )}
        {isColumn && (
          <Text truncate title={values.join(', ')}>
            {values.slice(0, 3).join(', ')}
          </Text>
        )}
        {fault !== undefined ? (
          <Text role="alert" color="fg.error">
            {fault}
          </Text>
        ) : (
          from === undefined && <Text>{HINTS[field]}</Text>
        )}
      </Box>
    </Flex>
  );
}

/** The first rows as they would be understood. */
function Preview({ view, mapping }: { readonly view: ImportView; readonly mapping: Mapping }) {
  const key = `${view.id} ${inOrder(mapping)}`;
  const { data: rows, error } = usePreview(key, view.id, mapping);
  const fields = fieldsWith(view.ownFields).filter(
    (field) => field === 'reference' || mapping[field] !== undefined,
  );
  if (error) return <Text color="declined">{error.message}</Text>;
  if (!rows) return null;
  return (
    <Box mt="6" overflowX="auto">
      <Text as="h2" fontFamily="heading" fontSize="18px" mb="2">
        Its first rows, as they are understood
      </Text>
      <Table.Root size="sm" aria-label="First rows">
        <Table.Header>
          <Table.Row bg="transparent">
            {fields.map((field) => (
              <Table.ColumnHeader key={field} color="muted" whiteSpace="nowrap">
                {calledField(field)}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {rows.map((one) => (
            <Table.Row key={one.line}>
              {'row' in one ? (
                fields.map((field) => (
                  <Table.Cell key={field} whiteSpace="nowrap">
                    {field === 'starts' && one.row.starts ? sayDate(one.row.starts) : (one.row[field] ?? '')}
                  </Table.Cell>
                ))
              ) : (
                <Table.Cell colSpan={fields.length} color="declined">
                  Line {one.line}: {one.says}
                </Table.Cell>
              )}
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </Box>
  );
}

function Going({ view }: { readonly view: ImportView }) {
  const { state, done, share } = view;
  return (
    <Box mb="3" role="status">
      <Text mb="1">
        {state === 'checking' ? 'Checking' : 'Bringing in'}: {sayCount(done)} rows. You may close this page:
        it goes on.
      </Text>
      <Progress.Root value={Math.round(share * 100)} size="sm" colorPalette="kelp" aria-label="How far it is">
        <Progress.Track>
          <Progress.Range />
        </Progress.Track>
      </Progress.Root>
    </Box>
  );
}

/** What a check found. */
function Report({ view }: { readonly view: ImportView }) {
  const { report, badRows, id } = view;
  if (!report) return null;
  const problems = report.problems.toSorted((a, b) => a.line - b.line);
  return (
    <>
      <MarginHeading>{problems.length === 0 ? 'This would come of it' : 'To be mended first'}</MarginHeading>
      <Counts view={view} />
      {problems.length > 0 && (
        <>
          <Text mt="3" mb="2">
            Nothing can be brought in while {badRows === 1 ? 'a row is' : `${sayCount(badRows)} rows are`} not
            good.{' '}
            <TextLink href={`/api/imports/${id}/rows-to-mend.csv`} download color="kelp.fg">
              Save {badRows === 1 ? 'it' : 'them'} as CSV to mend
            </TextLink>
          </Text>
          <Box as="ul" maxH="320px" overflow="auto" fontSize="13px" aria-label="Problems" tabIndex={0}>
            {problems.map(({ line, says }, i) => (
              <li key={i}>
                <Box as="span" color="muted">
                  Line {line}:
                </Box>{' '}
                {says}
              </li>
            ))}
          </Box>
        </>
      )}
    </>
  );
}

function Done({ view }: { readonly view: ImportView }) {
  return (
    <>
      <MarginHeading>Brought in</MarginHeading>
      <Counts view={view} />
    </>
  );
}

function Counts({ view: { report, state } }: { readonly view: ImportView }) {
  if (!report) return null;
  const { added, alreadyThere } = report;
  const would = state === 'done' ? '' : ' to add';
  const lines: [string, number][] = [
    [`customers${would}`, added.customers],
    [`subscriptions${would}`, added.subscriptions],
    ['customers there already, left as they are', alreadyThere.customers],
    ['subscriptions there already', alreadyThere.subscriptions],
  ];
  return (
    <>
      {lines
        .filter(([, count], i) => count > 0 || i === 0)
        .map(([says, count]) => (
          <Flex key={says} gap="3">
            <Box flex="1">{says}</Box>
            <Box>{sayCount(count)}</Box>
          </Flex>
        ))}
    </>
  );
}

type Asked = ReturnType<typeof useAnswer<PreviewRow[]>>;

/** The preview of a mapping, asked anew when it changes. */
function usePreview(key: string, id: string, mapping: Mapping): Pick<Asked, 'data' | 'error'> {
  return useSWR<PreviewRow[], Problem>(
    key,
    () => post<PreviewRow[]>(`/api/imports/${id}/preview`, { mapping }),
    { keepPreviousData: true },
  );
}
