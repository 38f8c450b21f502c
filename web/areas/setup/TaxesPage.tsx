import { Box, Button, Flex, Grid, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { countries, sayCountry } from '../../../core/words/countries.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { SectionView } from '../../../server/settings/messages.ts';
import { taxSchema, type TaxRate, type TaxView } from '../../../server/taxes/messages.ts';
import { post, Problem, put, remove } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { Conflict } from '../../parts/Conflict.tsx';
import { DateField } from '../../parts/DateField.tsx';
import { PercentField } from '../../parts/AmountField.tsx';

interface Draft {
  readonly id: string | null;
  readonly version: number;
  readonly name: string;
  readonly rates: readonly TaxRate[];
}

/** Named taxes with dated rates by country and region, and which one is the default. */
export function TaxesPage() {
  const { businessDate, role } = useFrame();
  const { data: taxes } = useAnswer<TaxView[]>('/api/taxes');
  const { data: taxing } = useAnswer<SectionView<'taxing'>>('/api/setup/taxing');
  const [draft, setDraft] = useState<Draft | null>(null);
  const acting = useAct();
  const inUse = taxes?.filter(({ retiredOn }) => retiredOn === null) ?? [];
  const begin = () =>
    setDraft({
      id: null,
      version: 0,
      name: '',
      rates: [
        {
          percent: '',
          mode: said === 'net' ? 'exclusive' : 'inclusive',
          country: null,
          region: '',
          validFrom: businessDate,
          validTo: null,
        },
      ],
    });
  const said = taxing?.value.said ?? 'net';
  const store = (to: Partial<SectionView<'taxing'>['value']>, done: string) =>
    taxing &&
    acting.act(
      () => put('/api/setup/taxing', { version: taxing.version, value: { ...taxing.value, ...to } }),
      done,
    );
  const choose = (defaultTax: string | null, noTax: boolean) =>
    store({ defaultTax, noTax }, 'Stored. Subscriptions that run keep the tax they were enrolled with.');
  return (
    <PageAndMargin
      title="Taxes"
      action={
        role === 'owner' && (
          <Button size="sm" colorPalette="kelp" onClick={begin}>
            Make a tax
          </Button>
        )
      }
      margin={
        draft ? (
          <TaxEditor key={`${draft.id}${draft.version}`} draft={draft} onClose={() => setDraft(null)} />
        ) : (
          <>
            <MarginHeading>The default</MarginHeading>
            {taxing && (
              <SelectField
                label="New subscriptions pay"
                disabled={role !== 'owner'}
                value={taxing.value.defaultTax ?? (taxing.value.noTax ? 'none' : '')}
                hint="Where a rate names no tax of its own."
                onChange={(event) => {
                  const { value } = event.target;
                  void choose(value === '' || value === 'none' ? null : value, value === 'none');
                }}
              >
                <option value="">Nobody has said yet</option>
                <option value="none">No tax</option>
                {inUse.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </SelectField>
            )}
            <MarginHeading>How prices are said</MarginHeading>
            <SelectField
              label="This business thinks in prices"
              disabled={role !== 'owner' || !taxing}
              value={said}
              hint={
                said === 'net'
                  ? 'A price reads £30.00 + 20 % VAT = £36.00. New taxes come on top.'
                  : 'A price reads £36.00 (£30.00 + 20 % VAT). New taxes are in the price.'
              }
              onChange={({ target }) =>
                void store(
                  { said: target.value === 'gross' ? 'gross' : 'net' },
                  'Stored. No charge changes by it.',
                )
              }
            >
              <option value="net">without tax</option>
              <option value="gross">with tax</option>
            </SelectField>
            <Outcome of={acting} />
            <MarginHeading>What changes what</MarginHeading>
            <Text>
              A subscription keeps the tax it was enrolled with. A new rate counts for invoices issued from
              its first day; issued invoices are never touched.
            </Text>
          </>
        )
      }
    >
      {taxes?.length === 0 && (
        <Text py="6">There is no tax yet. Make one, or say at the right that no tax is charged.</Text>
      )}
      {taxes?.map((tax) => (
        <Box
          key={tax.id}
          bg="page"
          borderWidth="1px"
          borderColor="lines"
          borderRadius="md"
          mb="4"
          maxW="860px"
        >
          <Flex px="3" py="2" align="baseline" gap="3">
            <Text as="h2" fontFamily="heading" fontSize="16px">
              {tax.name}
            </Text>
            <Text color="muted">
              {tax.isDefault ? 'the default' : ''}
              {tax.retiredOn !== null ? `retired on ${sayDate(tax.retiredOn)}` : ''}
            </Text>
            <Text color="muted" ml="auto">
              {tax.subscriptions} subscriptions
            </Text>
            {role === 'owner' && tax.retiredOn === null && (
              <>
                <Button size="xs" variant="outline" onClick={() => setDraft({ ...tax })}>
                  Edit
                </Button>
                <Button
                  size="xs"
                  variant="ghost"
                  disabled={tax.isDefault || tax.subscriptions > 0}
                  onClick={() =>
                    void acting.act(() => remove(`/api/taxes/${tax.id}`), `${tax.name} is retired.`)
                  }
                >
                  Retire
                </Button>
              </>
            )}
          </Flex>
          <Table.Root size="sm" aria-label={`Rates of ${tax.name}`}>
            <Table.Body>
              {tax.rates.map((rate, i) => (
                <Table.Row
                  key={i}
                  h="36px"
                  bg="page"
                  color={isInForce(rate, businessDate) ? undefined : 'muted'}
                >
                  <Table.Cell py="0" w="90px" textAlign="end">
                    {rate.percent}%
                  </Table.Cell>
                  <Table.Cell py="0">
                    {rate.mode === 'exclusive' ? 'on top of the price' : 'inside the price'}
                  </Table.Cell>
                  <Table.Cell py="0">
                    {rate.country === null ? 'Everywhere else' : sayCountry(rate.country)}
                    {rate.region && `, ${rate.region}`}
                  </Table.Cell>
                  <Table.Cell py="0">
                    from {sayDate(rate.validFrom)}
                    {rate.validTo !== null && ` until ${sayDate(rate.validTo)}`}
                  </Table.Cell>
                </Table.Row>
              ))}
            </Table.Body>
          </Table.Root>
        </Box>
      ))}
    </PageAndMargin>
  );
}

function isInForce({ validFrom, validTo }: TaxRate, today: string): boolean {
  return validFrom <= today && (validTo === null || today < validTo);
}

function TaxEditor({ draft, onClose }: { readonly draft: Draft; readonly onClose: () => void }) {
  const { businessDate } = useFrame();
  const [name, setName] = useState(draft.name);
  const [rates, setRates] = useState(draft.rates);
  const [faults, setFaults] = useState<Readonly<Record<string, string>>>({});
  const acting = useAct();
  const change = (at: number, to: Partial<TaxRate>) =>
    setRates(rates.map((rate, i) => (i === at ? { ...rate, ...to } : rate)));
  const store = async (version: number) => {
    const parsed = taxSchema.safeParse({ name, rates });
    setFaults(
      parsed.success
        ? {}
        : Object.fromEntries(parsed.error.issues.map(({ path, message }) => [path.join('/'), message])),
    );
    if (!parsed.success) return;
    const value = parsed.data;
    const stored = await acting.act(() =>
      draft.id === null ? post('/api/taxes', { value }) : put(`/api/taxes/${draft.id}`, { version, value }),
    );
    if (stored) onClose();
  };
  const fault = (path: string) => faults[path] ?? acting.problem?.at(`/value/${path}`);
  const theirs = acting.problem instanceof Problem ? acting.problem.theirs : undefined;
  return (
    <>
      <MarginHeading>{draft.id === null ? 'A new tax' : `Edit ${draft.name}`}</MarginHeading>
      <TextField
        label="Name"
        required
        maxLength={80}
        placeholder="VAT"
        value={name}
        error={fault('name')}
        onChange={(event) => setName(event.target.value)}
      />
      {rates.map((rate, i) => {
        const settled = draft.rates.includes(rate) && draft.id !== null && rate.validFrom < businessDate;
        return (
          <Grid
            key={i}
            gap="2"
            borderTopWidth="1px"
            borderColor="lines"
            mt="4"
            pt="3"
            role="group"
            aria-label={`Rate ${i + 1}`}
          >
            <Flex gap="2">
              <Box w="90px">
                <PercentField
                  label="Percent"

                  disabled={settled}
                  value={rate.percent}
                  error={fault(`rates/${i}/percent`)}
                  onChange={(event) => change(i, { percent: event.target.value })}
                />
              </Box>
              <SelectField
                label="Stands"
                disabled={settled}
                value={rate.mode}
                onChange={(event) => change(i, { mode: event.target.value as TaxRate['mode'] })}
              >
                <option value="exclusive">on top</option>
                <option value="inclusive">inside</option>
              </SelectField>
            </Flex>
            <SelectField
              label="For customers in"
              disabled={settled}
              value={rate.country ?? ''}
              error={fault(`rates/${i}/country`)}
              onChange={(event) => change(i, { country: event.target.value || null })}
            >
              <option value="">everywhere else</option>
              {countries().map(({ code, name: called }) => (
                <option key={code} value={code}>
                  {called}
                </option>
              ))}
            </SelectField>
            {rate.country !== null && (
              <TextField
                label="Region, if only there"
                maxLength={60}
                disabled={settled}
                value={rate.region}
                onChange={(event) => change(i, { region: event.target.value })}
              />
            )}
            <Flex direction="column" gap="2">
              <DateField
                label="From"
                disabled={settled}
                value={rate.validFrom}
                error={fault(`rates/${i}/validFrom`)}
                onChange={(event) => change(i, { validFrom: event.target.value })}
              />
              <DateField
                label="Until"
                value={rate.validTo ?? ''}
                error={fault(`rates/${i}/validTo`)}
                onChange={(event) => change(i, { validTo: event.target.value || null })}
              />
            </Flex>
            {settled ? (
              <Text color="muted" fontSize="13px">
                In force since {sayDate(rate.validFrom)}: it can be ended, not changed.
              </Text>
            ) : (
              rates.length > 1 && (
                <Button size="xs" variant="ghost" onClick={() => setRates(rates.filter((_, j) => j !== i))}>
                  Take out
                </Button>
              )
            )}
          </Grid>
        );
      })}
      <Button
        mt="3"
        size="xs"
        variant="outline"
        onClick={() =>
          setRates([
            ...rates,
            {
              percent: '',
              mode: 'exclusive',
              country: null,
              region: '',
              validFrom: businessDate,
              validTo: null,
            },
          ])
        }
      >
        Add a rate
      </Button>
      {fault('rates') && (
        <Text role="alert" color="declined" mt="2">
          {fault('rates')}
        </Text>
      )}
      {theirs && (
        <Conflict
          mine={{ name, rates }}
          theirs={theirs.value as object}
          by={theirs.changedBy}
          onMine={() => void store(theirs.version)}
          onTheirs={onClose}
        />
      )}
      <Flex gap="2" mt="5">
        <Button size="sm" colorPalette="kelp" loading={acting.busy} onClick={() => void store(draft.version)}>
          {draft.id === null ? 'Make the tax' : 'Store the tax'}
        </Button>
        <Button size="sm" variant="outline" onClick={onClose}>
          Leave it
        </Button>
      </Flex>
      <Outcome of={acting} />
    </>
  );
}
