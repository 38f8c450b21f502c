import { Box, Button, Flex, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useSWRConfig } from 'swr';
import { formatDay, toDay } from '../../../core/dates/day.ts';
import { WEEKDAYS } from '../../../core/dates/weekday.ts';
import { toWorkingDay } from '../../../core/dates/workingDay.ts';
import { countries, sayCountry } from '../../../core/words/countries.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { Holiday, HolidayImport } from '../../../server/calendar/messages.ts';
import { PAYMENT_KINDS, type SectionValue } from '../../../server/settings/messages.ts';
import { post, Problem, remove, withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { faultAt, field, SectionForm } from './SectionForm.tsx';
import { DateField } from '../../parts/DateField.tsx';

const DAY_NAMES = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;
const sayPlace = (code: string) => (code === '' ? 'Everywhere else' : sayCountry(code));

/** Weekends and holidays by country, and where due dates move that fall on them. */
export function CalendarPage() {
  const { data: holidays } = useAnswer<Holiday[]>('/api/holidays');
  return (
    <SectionForm
      name="calendar"
      title="Calendar"
      margin={(value) => <Meaning value={value} holidays={holidays ?? []} />}
      below={<Holidays holidays={holidays ?? []} />}
    >
      {(form, value) => (
        <>
          <Box>
            <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
              A due date on a weekend or holiday
            </Text>
            <Flex gap="4">
              {Object.entries(PAYMENT_KINDS).map(([kind, label]) => (
                <SelectField key={kind} label={label} {...field(form, `shifts.${kind}`)}>
                  <option value="none">stays</option>
                  <option value="next">moves to the next working day</option>
                  <option value="previous">moves to the one before</option>
                </SelectField>
              ))}
            </Flex>
          </Box>
          <Box>
            <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
              Weekends
            </Text>
            {value.weekends.map((weekend, i) => (
              <Flex
                key={weekend.country}
                gap="3"
                align="center"
                py="1"
                borderTopWidth="1px"
                borderColor="lines"
              >
                <Box w="190px">{sayPlace(weekend.country)}</Box>
                {WEEKDAYS.map((day, d) => (
                  <label key={day}>
                    <input
                      type="checkbox"
                      checked={weekend.days.includes(day)}
                      onChange={(event) => {
                        const days = WEEKDAYS.filter((one) =>
                          one === day ? event.target.checked : weekend.days.includes(one),
                        );
                        form.setValue(`weekends.${i}.days`, days, {
                          shouldDirty: true,
                          shouldValidate: true,
                        });
                      }}
                    />{' '}
                    {DAY_NAMES[d]}
                  </label>
                ))}
                {weekend.country !== '' && (
                  <Button
                    size="xs"
                    variant="ghost"
                    onClick={() =>
                      form.setValue(
                        'weekends',
                        value.weekends.filter((_, j) => j !== i),
                        { shouldDirty: true },
                      )
                    }
                  >
                    Take out
                  </Button>
                )}
                <Text color="declined">{faultAt(form, `weekends.${i}.days`)}</Text>
              </Flex>
            ))}
            <Box w="260px" mt="2">
              <SelectField
                label="Another country"
                value=""
                onChange={(event) => {
                  if (event.target.value === '') return;
                  const added = { country: event.target.value, days: ['sat', 'sun'] };
                  form.setValue('weekends', [...value.weekends, added], { shouldDirty: true });
                }}
              >
                <option value="">Choose …</option>
                {countries()
                  .filter(({ code }) => !value.weekends.some(({ country }) => country === code))
                  .map(({ code, name }) => (
                    <option key={code} value={code}>
                      {name}
                    </option>
                  ))}
              </SelectField>
            </Box>
          </Box>
        </>
      )}
    </SectionForm>
  );
}

function Meaning(props: { readonly value: SectionValue<'calendar'>; readonly holidays: readonly Holiday[] }) {
  const { businessDate } = useFrame();
  const { value, holidays } = props;
  const shift = value.shifts.card;
  const everywhere = value.weekends.find(({ country }) => country === '')?.days ?? [];
  const weekend = new Set(everywhere.map((day) => WEEKDAYS.indexOf(day)));
  const days = new Set(holidays.map(({ date }) => toDay(date)));
  const from = toDay(businessDate);
  const samples = Array.from({ length: 400 }, (_, i) => from + i)
    .filter((day) => shift !== 'none' && toWorkingDay(day, { shift, weekend, holidays: days }) !== day)
    .slice(0, 6);
  return (
    <>
      <MarginHeading>Card payments that move</MarginHeading>
      {shift === 'none' && <Text>None: cards are charged on the very day, whatever day it is.</Text>}
      {shift !== 'none' &&
        samples.map((day) => (
          <Flex key={day} py="2px" gap="2">
            <Box flex="1">{sayDate(formatDay(day))}</Box>
            <Box color="muted">
              {sayDate(formatDay(toWorkingDay(day, { shift, weekend, holidays: days })))}
            </Box>
          </Flex>
        ))}
      <MarginHeading>What this changes</MarginHeading>
      <Text>
        Whether due dates move is agreed when somebody is enrolled, and stays. Days added here count for all
        who keep to this calendar, from the next invoice on.
      </Text>
    </>
  );
}

function Holidays({ holidays }: { readonly holidays: readonly Holiday[] }) {
  const { role } = useFrame();
  const { mutate } = useSWRConfig();
  const [country, setCountry] = useState('');
  const [date, setDate] = useState('');
  const [name, setName] = useState('');
  const [faults, setFaults] = useState<Problem | null>(null);
  const [file, setFile] = useState<{ text: string; would: HolidayImport } | null>(null);
  const refresh = () => mutate('/api/holidays');
  const act = async (work: () => Promise<unknown>) => {
    setFaults(null);
    try {
      await work();
      await refresh();
    } catch (error) {
      setFaults(error instanceof Problem ? error : new Problem(0, 'That did not work.', []));
    }
  };
  const look = (chosen: File | undefined) =>
    chosen &&
    act(async () => {
      const text = await chosen.text();
      setFile({
        text,
        would: await post<HolidayImport>('/api/holidays/import', { country, text, dryRun: true }),
      });
    });
  return (
    <Box maxW="760px" mt="8">
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
        Holidays
      </Text>
      {role === 'owner' && (
        <>
          <Flex gap="3" align="flex-end" mb="2">
            <SelectField label="Country" value={country} onChange={(event) => setCountry(event.target.value)}>
              <option value="">Everywhere</option>
              {countries().map(({ code, name: called }) => (
                <option key={code} value={code}>
                  {called}
                </option>
              ))}
            </SelectField>
            <DateField
              label="Day"
              value={date}
              error={faults?.at('/date')}
              onChange={(event) => setDate(event.target.value)}
            />
            <TextField
              label="Name"
              maxLength={120}
              value={name}
              error={faults?.at('/name')}
              onChange={(event) => setName(event.target.value)}
            />
            <Button
              size="sm"
              variant="outline"
              onClick={() => void act(() => post('/api/holidays', { country, date, name }))}
            >
              Add
            </Button>
          </Flex>
          <Flex gap="3" align="center" mb="3">
            <label>
              Or read an iCalendar file for that country:{' '}
              <input
                type="file"
                accept=".ics,text/calendar"
                onChange={(event) => void look(event.target.files?.[0])}
              />
            </label>
          </Flex>
        </>
      )}
      {faults && (
        <Text role="alert" color="declined" mb="2">
          {faults.message}
        </Text>
      )}
      {file && (
        <Box role="status" borderLeftWidth="3px" borderColor="planned" pl="3" mb="3">
          <Text>
            The file would add {file.would.added.length} days
            {file.would.known > 0 ? `; ${file.would.known} are here already` : ''}
            {file.would.passedOver.length > 0 ? `; passed over: ${file.would.passedOver.join(', ')}` : ''}.
          </Text>
          <Text color="muted">
            {file.would.added
              .slice(0, 8)
              .map((day) => `${sayDate(day.date)} ${day.name}`)
              .join('; ')}
            {file.would.added.length > 8 ? ' …' : ''}
          </Text>
          <Flex gap="2" mt="2">
            <Button
              size="xs"
              colorPalette="kelp"
              disabled={file.would.added.length === 0}
              onClick={() =>
                void act(async () => {
                  await post('/api/holidays/import', { country, text: file.text, dryRun: false });
                  setFile(null);
                })
              }
            >
              Add them
            </Button>
            <Button size="xs" variant="outline" onClick={() => setFile(null)}>
              Leave it
            </Button>
          </Flex>
        </Box>
      )}
      {holidays.length === 0 ? (
        <Text color="muted">No holidays yet. Due dates move around weekends alone.</Text>
      ) : (
        <Table.Root size="sm" aria-label="Holidays" bg="page">
          <Table.Body>
            {holidays.map((day) => (
              <Table.Row key={`${day.country}${day.date}`} h="36px" bg="page">
                <Table.Cell py="0" w="170px">
                  {sayDate(day.date)}
                </Table.Cell>
                <Table.Cell py="0">{day.name}</Table.Cell>
                <Table.Cell py="0">{day.country === '' ? 'Everywhere' : sayCountry(day.country)}</Table.Cell>
                <Table.Cell py="0" textAlign="end">
                  {role === 'owner' && (
                    <Button
                      size="xs"
                      variant="ghost"
                      aria-label={`Take out ${day.name}, ${sayDate(day.date)}`}
                      onClick={() =>
                        void act(() =>
                          remove(withQuery('/api/holidays', { country: day.country, date: day.date })),
                        )
                      }
                    >
                      Take out
                    </Button>
                  )}
                </Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
    </Box>
  );
}
