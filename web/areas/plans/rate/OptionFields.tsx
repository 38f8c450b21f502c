import { Box, Flex, Text } from '@chakra-ui/react';
import { shortestTrialDays, trialNoticeDays } from '../../../../core/offer/trialNotice.ts';
import { rateOptionsSchema } from '../../../../server/plans/choiceMessages.ts';
import { TickField } from '../../../parts/TickField.tsx';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import type { DraftChange, RateDraft } from './draft.ts';
import { GatewayTicks } from './GatewayTicks.tsx';
import { optionsOf, type OptionsDraft } from './optionsDraft.ts';
import { Part } from '../../../parts/Part.tsx';
import { UnitField } from './UnitField.tsx';
import { DateField } from '../../../parts/DateField.tsx';
import { QuantityField } from '../../../parts/QuantityField.tsx';

interface Props {
  readonly draft: RateDraft;
  readonly onChange: DraftChange;
}

/** How a rate may be paid. */
const WAYS: Readonly<Record<OptionsDraft['methods'][number], string>> = {
  card: 'by card, charged by itself',
  'bank debit': 'by bank debit, collected by itself',
  'online transfer': 'by online transfer, at the bank’s own page',
  invoice: 'by invoice, which is sent to be paid',
};

/** How long before its end a trial is told of where the rate says nothing, for the field to show. */
function usualNotice({ trial, trialUnit }: RateDraft): string {
  const trialDays = shortestTrialDays(`P${trial.trim()}${trialUnit}`);
  return trialDays === null ? '' : String(trialNoticeDays({ trialDays, asked: null, required: null }));
}

/** What is wrong with the options of a draft, by member. */
export function faultsOfOptions(draft: OptionsDraft): ReadonlyMap<string, string> {
  const parsed = rateOptionsSchema.safeParse(optionsOf(draft));
  if (parsed.success) return new Map();
  return new Map(parsed.error.issues.map(({ path, message }) => [String(path[0]), message]));
}

/** How a rate is sold and collected: from when, with what, by itself or by hand, and what customers are told. */
export function OptionFields({ draft, onChange }: Props) {
  const { options } = draft;
  const faults = faultsOfOptions(options);
  const set = (to: Partial<OptionsDraft>) => onChange((now) => ({ options: { ...now.options, ...to } }));
  const bind = (
    name: 'account' | 'issueDaysBefore' | 'noticeDays' | 'trialNoticeDays' | 'afterCount' | 'beginsOn',
  ) => ({
    value: options[name],
    onChange: (event: { target: { value: string } }) => set({ [name]: event.target.value }),
  });
  const recurs = draft.kind === 'recurring';
  return (
    <Part title="How it is sold and collected">
      {recurs && (
        <Flex gap="3" align="flex-start" wrap="wrap" mb="3">
          <Box w="230px">
            <SelectField
              label="What recurs begins"
              value={options.begins}
              hint="Amounts once do not wait for it."
              onChange={(event) => set({ begins: event.target.value as OptionsDraft['begins'] })}
            >
              <option value="enrolment">on the day of enrolment</option>
              <option value="after">some time after it</option>
              <option value="on">on a date</option>
            </SelectField>
          </Box>
          {options.begins === 'after' && (
            <>
              <Box w="90px">
                <QuantityField
                  label="Later by"
                  most={999}
                  error={faults.get('recurringStart')}
                  {...bind('afterCount')}
                />
              </Box>
              <Box w="110px">
                <UnitField
                  label="Counted in"
                  value={options.afterUnit}
                  onChange={(afterUnit) => set({ afterUnit })}
                />
              </Box>
            </>
          )}
          {options.begins === 'on' && (
            <Box w="170px">
              <DateField
                label="It begins on"
                hint="Who enrols later begins then."
                error={faults.get('recurringStart')}
                {...bind('beginsOn')}
              />
            </Box>
          )}
        </Flex>
      )}
      <Flex gap="6" align="flex-start" wrap="wrap" mb="3">
        <Box role="group" aria-labelledby="paid-how" w="340px">
          <Text fontWeight="500" id="paid-how">
            Paid
          </Text>
          {(Object.keys(WAYS) as OptionsDraft['methods']).map((way) => (
            <TickField
              key={way}
              label={WAYS[way]}
              checked={options.methods.includes(way)}
              onChange={(on) =>
                set({
                  methods: (Object.keys(WAYS) as OptionsDraft['methods']).filter((one) =>
                    one === way ? on : options.methods.includes(one),
                  ),
                })
              }
            />
          ))}
          {faults.has('methods') && (
            <Text role="alert" color="fg.error" fontSize="13px">
              {faults.get('methods')}
            </Text>
          )}
        </Box>
        {options.methods.some((way) => way !== 'invoice') && (
          <GatewayTicks
            currency={draft.currency}
            methods={options.methods}
            ticked={options.gateways}
            onChange={(gateways) => set({ gateways })}
          />
        )}
      </Flex>
      <Flex gap="3" align="flex-start" wrap="wrap">
        {recurs && draft.ends === 'after' && (
          <Box w="290px">
            <SelectField
              label="Invoiced"
              value={options.invoicing}
              onChange={(event) => set({ invoicing: event.target.value as OptionsDraft['invoicing'] })}
            >
              <option value="each">each payment by itself</option>
              <option value="whole">the whole at the start, with dated dues</option>
            </SelectField>
          </Box>
        )}
        {recurs && draft.trial.trim() !== '' && (
          <Box w="270px">
            <SelectField
              label="A trial without a card"
              value={options.withoutMethod}
              onChange={(event) =>
                set({ withoutMethod: event.target.value as OptionsDraft['withoutMethod'] })
              }
            >
              <option value="needed">cannot start: a card is needed</option>
              <option value="end">ends with the trial</option>
              <option value="pause">rests after it until there is one</option>
              <option value="invoice">goes on and is paid by invoice</option>
            </SelectField>
          </Box>
        )}
        {recurs && draft.trial.trim() !== '' && (
          <Box w="190px">
            <QuantityField
              label="Notice of a trial's end, days"
              most={99}
              placeholder={usualNotice(draft)}
              hint="At least what the customer's country asks for."
              error={faults.get('trialNoticeDays')}
              {...bind('trialNoticeDays')}
            />
          </Box>
        )}
        {recurs && options.invoicing === 'each' && (
          <Box w="190px">
            <QuantityField
              label="Invoiced before, days"
              most={99}
              placeholder="on its day"
              hint="So many days before each period."
              error={faults.get('issueDaysBefore')}
              {...bind('issueDaysBefore')}
            />
          </Box>
        )}
        {recurs && (
          <Box w="190px">
            <QuantityField
              label="Notice of renewals, days"
              most={99}
              placeholder="none"
              hint="A letter before each."
              error={faults.get('noticeDays')}
              {...bind('noticeDays')}
            />
          </Box>
        )}
        <Box w="230px">
          <TextField
            label="Account of the books"
            maxLength={40}
            placeholder="such as 4000 Subscriptions"
            error={faults.get('account')}
            {...bind('account')}
          />
        </Box>
      </Flex>
    </Part>
  );
}
