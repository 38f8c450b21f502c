import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { isAccessible } from '../testing/accessible.ts';
import { openSample } from '../testing/openSample.ts';
import type { World } from '../testing/world.ts';
import { bringInCustomers, endSound, HIVES, sell, serve } from './selling.ts';

// Failed payments as staff work with them: the ladders that they climb, and the board of cases; each test goes on with what the
// one before it made.
test.describe.configure({ mode: 'serial' });

let world: World;
let home: string;

test.beforeAll(async () => {
  world = await sell([HIVES]);
  await world.moveCards([
    { token: 'card-of-bram-fenn', behaviour: { code: '51' } },
    { token: 'card-of-cleo-fenn', behaviour: { code: '51' } },
    { token: 'card-of-dora-fenn', behaviour: { code: '41', onlyCharges: true } },
  ]);
  await bringInCustomers(world, [
    'reference,name,email,plan,rate,starts,card_token',
    'B-1,Bram Fenn,bram@post.example,hives,monthly,2027-01-04,card-of-bram-fenn',
    'C-1,Cleo Fenn,cleo@post.example,hives,monthly,2027-01-04,card-of-cleo-fenn',
    'D-1,Dora Fenn,dora@post.example,hives,monthly,2027-01-04,card-of-dora-fenn',
  ]);
  await world.turnTo('2027-01-06');
  home = await serve(world);
});
test.afterAll(() => endSound(world));

const margin = (page: Page) => page.getByRole('complementary');
const dates = (page: Page) => margin(page).locator('tbody tr');
const openCaseOf = async (page: Page, customer: string) => {
  await page.goto(`${home}/cases`);
  await page.getByRole('row', { name: new RegExp(customer) }).click();
  await expect(margin(page).getByRole('heading', { name: customer })).toBeVisible();
};

test('a ladder is made on its line of days, by the arrow keys and by dragging; its dates follow at once', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/ladders`);
  await isAccessible(page);
  await page.getByRole('link', { name: 'Around pay-day' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Make a ladder' })).toBeVisible();
  await isAccessible(page);
  await page.getByLabel('Begun from').selectOption('steady');
  await page.getByLabel('Name').fill('For hives');
  const rung = (day: number) => page.getByRole('button', { name: new RegExp(`^Rung on day ${day}:`) });
  await expect(dates(page).first()).toContainText('Wed 6 Jan');
  await expect(dates(page).filter({ hasText: 'Sat 9 Jan' })).toContainText('try, write');
  // A day by an arrow key, a week with Shift; the focus stays on the rung.
  await rung(3).focus();
  await page.keyboard.press('ArrowRight');
  await expect(rung(4)).toBeFocused();
  await expect(dates(page).filter({ hasText: 'Sun 10 Jan' })).toContainText('try, write');
  await page.keyboard.press('ArrowLeft');
  await expect(rung(3)).toBeFocused();
  // Dragged to another day by the mouse.
  const from = await rung(12).boundingBox();
  const seventh = await rung(7).boundingBox();
  if (!from || !seventh) throw new Error('The rungs are not drawn.');
  const aDay = (from.x - seventh.x) / 5;
  await page.mouse.move(from.x + from.width / 2, from.y + from.height / 2);
  await page.mouse.down();
  await page.mouse.move(from.x + from.width / 2 - aDay, from.y + from.height / 2, { steps: 4 });
  await page.mouse.move(from.x + from.width / 2 - 2 * aDay, from.y + from.height / 2, { steps: 4 });
  await page.mouse.up();
  await expect(rung(10)).toBeVisible();
  await expect(page.getByRole('button', { name: /^Rung on day/ })).toHaveCount(4);
});

test('what would leave somebody in silence is refused beside it, and nothing that was typed is lost', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/ladders/new?from=letters`);
  await page.getByLabel('Name').fill('In silence');
  for (const day of [14, 7]) {
    await page.getByRole('button', { name: new RegExp(`^Rung on day ${day}:`) }).click();
    await page.getByRole('button', { name: 'Take this rung away' }).click();
  }
  await page.getByRole('group', { name: 'For which declines' }).getByText('Lost, withdrawn').click();
  await margin(page).getByRole('button', { name: 'for whom it is' }).click();
  await page.getByRole('group', { name: 'Paid how' }).getByText('By card').click();
  const missing = margin(page).getByRole('group', { name: 'Still missing' });
  await expect(missing).toContainText(
    'Nobody lapses in silence: add a letter before the end where lost, stolen, or withdrawn',
  );
  await page.getByText('The end', { exact: true }).click();
  await page.getByLabel('At the end').selectOption('leave');
  await expect(missing).toBeHidden();
  await page.getByLabel('At the end').selectOption('lapse');
  await page.getByRole('group', { name: 'For which declines' }).getByText('Lost, withdrawn').click();
  await page.getByRole('button', { name: 'Add a rung' }).click();
  await page.getByRole('group', { name: 'What it does' }).getByText('Tell staff').click();
  await page.getByLabel('And then').selectOption('task');
  await expect(missing).toContainText('Say what is to be done');
  await page.getByLabel('The task').fill('Call them.');
  await page.getByRole('button', { name: 'Make the ladder' }).click();
  await expect(page.getByRole('link', { name: 'In silence' })).toBeVisible();
  await page.getByRole('link', { name: 'In silence' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Ladder: In silence' })).toBeVisible();
  await expect(margin(page)).toContainText('Nothing is changed.');
  await page.goto(`${home}/ladders`);
  await page.getByRole('button', { name: 'Out of use …' }).click();
  await page.getByRole('button', { name: 'Take it out of use' }).click();
  await expect(page.getByText('In silence is out of use.')).toBeVisible();
});

test('a case shows its line of time, past and to come; what is done to it is shown first', async ({
  page,
}) => {
  await openSample(page, home);
  await openCaseOf(page, 'Bram Fenn');
  await isAccessible(page);
  const line = margin(page).getByRole('listitem');
  await expect(line.filter({ hasText: '£48.00 declined, when it was due' })).toBeVisible();
  await expect(line.filter({ hasText: 'to come' }).first()).toContainText('Try the card again, write');
  await margin(page).getByRole('button', { name: 'Try now' }).click();
  const act = margin(page).getByRole('group', { name: 'Try now' });
  await expect(act).toContainText('Charges £48.00 to Larkfield ending 4242 now.');
  await act.getByRole('button', { name: 'Try now' }).click();
  await expect(act).toContainText('Declined again.');
  await act.getByRole('button', { name: 'Close' }).click();
  await expect(line.filter({ hasText: '£48.00 declined, by staff' })).toBeVisible();
  await margin(page).getByRole('button', { name: 'More' }).click();
  await page.getByRole('menuitem', { name: 'Note a call' }).click();
  await page.getByLabel('What was said').fill('Will pay on Friday.');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(line.filter({ hasText: 'Call: Will pay on Friday.' })).toBeVisible();
});

test('several cases are set aside at once: who is left out, and why, is said before it is done', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/cases`);
  for (const name of ['Bram Fenn', 'Cleo Fenn', 'Dora Fenn'])
    await page.getByLabel(`Choose the case of ${name}`).check();
  const chosen = page.getByRole('region', { name: 'What is chosen' });
  await chosen.getByRole('button', { name: 'Try now' }).click();
  await expect(chosen).toContainText('2 of 3, with £96.00 open');
  await expect(chosen).toContainText('Left out: Dora Fenn. No card of theirs can be charged');
  await isAccessible(page);
  await chosen.getByRole('button', { name: 'Set aside', exact: true }).click();
  const act = chosen.getByRole('group', { name: 'Set aside' });
  await act.getByLabel('Until').fill('20 jan');
  await act.getByLabel('Until').press('Tab');
  await expect(act).toContainText('3 of 3, with £144.00 open');
  await act.getByRole('button', { name: 'Set aside (3)' }).click();
  await expect(act).toContainText('£144.00 open: done');
  await act.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByRole('row', { name: /Cleo Fenn/ })).toContainText('set aside until 20 Jan 2027');
  await world.turnTo('2027-01-19');
  const tried = await world.almanac.db.row<{ n: number }>('select count(*)::int as n from attempts');
  expect(tried?.n, 'three on the first day, one by staff').toBe(4);
});

test('collecting is stopped for everybody: every screen says so, what waits is listed, and it goes on but for one', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/suspensions`);
  await expect(page.getByText('Nothing is stopped')).toBeVisible();
  const stop = margin(page).getByRole('button', { name: 'Stop collecting' });
  await expect(stop).toBeDisabled();
  await page.getByLabel('Until').fill('15 mar');
  await page.getByLabel('Until').press('Tab');
  await page.getByLabel('Why').fill('The gateway moves house.');
  await expect(margin(page)).toContainText(
    'Held back until then: 6 charges of £288.00, and 3 steps of cases.',
  );
  await stop.click();
  const banner = page.getByRole('status').filter({ hasText: 'Collecting is stopped until Mon 15 Mar 2027.' });
  await expect(banner).toBeVisible();
  await isAccessible(page);
  await page.goto(`${home}/plans`);
  await expect(banner).toBeVisible();
  await world.turnTo('2027-02-05');
  await page.goto(`${home}/suspensions`);
  await expect(page.getByText('6 things that wait')).toBeVisible();
  await page.getByRole('button', { name: 'Let it go on …' }).click();
  await page.getByRole('group', { name: 'Who stays stopped' }).getByLabel('Cleo Fenn').check();
  await expect(margin(page)).toContainText('4 of 6 that wait are done');
  await isAccessible(page);
  await margin(page).getByRole('button', { name: 'Let it go on' }).click();
  await expect(
    page.getByRole('status').filter({ hasText: 'Collecting from one customer is stopped.' }),
  ).toBeVisible();
  await world.turnTo('2027-02-06');
  const tried = await world.almanac.db.rows<{ name: string }>(
    `select c.name from attempts a join customers c on c.id = a.customer_id where a.attempted_on = '2027-02-05'`,
  );
  expect(tried.map(({ name }) => name)).not.toContain('Cleo Fenn');
  expect(tried.map(({ name }) => name)).toContain('Bram Fenn');
});

test('ladders are compared on what happened, one that suits it is suggested, explained, and made', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/ladders`);
  await page.getByRole('link', { name: 'Compare ladders' }).click();
  const compared = page.getByRole('region', { name: 'What each ladder would have recovered' });
  await expect(compared.getByRole('rowheader')).toHaveText([/^Steady/, /^Quiet/, /^Patient/]);
  await expect(compared.getByRole('row', { name: /^Quiet/ })).toContainText(/\d+\.\d\d to \d+\.\d\d/);
  await isAccessible(page);
  await margin(page).getByText('Brisk', { exact: true }).click();
  await expect(compared.getByRole('rowheader')).toHaveCount(4);
  const when = page.getByRole('region', { name: 'When it would have been paid' });
  await when.getByRole('button', { name: 'As a table' }).click();
  await expect(when.getByRole('columnheader')).toHaveText([
    'Day',
    'Steady, %',
    'Quiet, %',
    'Patient, %',
    'Brisk, %',
  ]);
  const saved = page.waitForEvent('download');
  await compared.getByRole('button', { name: /as CSV/ }).click();
  expect((await saved).suggestedFilename()).toBe('ladders-compared.csv');
  const lines = readFileSync(await (await saved).path(), 'utf8')
    .trim()
    .split('\r\n');
  expect(lines).toHaveLength(5);
  expect(lines[1]).toMatch(/^Steady,\d+\.\d\d,/);

  const suggestion = page.getByRole('region', { name: 'A suggested ladder' });
  await suggestion.getByLabel('Ends on day').fill('5');
  await expect(suggestion.getByRole('button', { name: 'Look for one' })).toBeDisabled();
  await suggestion.getByLabel('Ends on day').fill('12');
  await suggestion.getByRole('button', { name: 'Look for one' }).click();
  await expect(suggestion.getByRole('status')).toContainText('It ends on day 12.');
  await expect(suggestion.getByRole('row', { name: /^9 / })).toContainText('letter');
  await expect(compared.getByRole('rowheader')).toHaveCount(5);
  await isAccessible(page);
  await suggestion.getByRole('button', { name: 'Make this ladder …' }).click();
  await expect(page.getByLabel('Name')).toHaveValue('Suggested');
  await expect(page.getByRole('button', { name: /^Rung on day 9:/ })).toBeVisible();
  await expect(page.getByLabel('Begun from')).toBeHidden();
});

test('who pays with a card that expires is listed, and leaves the list when it is another', async ({
  page,
}) => {
  await world.moveCards([{ token: 'card-of-edna-fenn', behaviour: {}, expiresYear: 2027, expiresMonth: 2 }]);
  await bringInCustomers(world, [
    'reference,name,email,plan,rate,starts,card_token',
    'E-1,Edna Fenn,edna@post.example,hives,monthly,2027-02-06,card-of-edna-fenn',
  ]);
  await world.turnTo('2027-02-07');
  await openSample(page, home);
  await page.goto(`${home}/cases`);
  await page.getByRole('link', { name: 'Cards that expire' }).click();
  const row = page.getByRole('row', { name: /Edna Fenn/ });
  await expect(row).toContainText('28 Feb 2027');
  await expect(row).toContainText('6 Feb 2027');
  await expect(row).toContainText('£48.00, after it has expired');
  await isAccessible(page);
  await page.getByLabel('State').selectOption('next month');
  await expect(page.getByText('Edna Fenn')).toBeHidden();
  await page.goto(`${home}/letters?search=edna`);
  await expect(page.getByText('Your card Larkfield ending 4242 expires on Sun 28 Feb 2027')).toBeVisible();
});

test('what recovery brings stands as charts, as tables and as files, by month, reason, ladder and rung', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(home);
  await page.getByRole('link', { name: 'Figures' }).click();
  const reasons = page.getByRole('region', { name: 'By reason' });
  await reasons.getByRole('button', { name: 'As a table' }).click();
  await expect(reasons.getByRole('row', { name: /^Lost, stolen or withdrawn/ })).toContainText('96.00');
  await isAccessible(page);
  const saved = page.waitForEvent('download');
  await page
    .getByRole('region', { name: 'By ladder' })
    .getByRole('button', { name: /as CSV/ })
    .click();
  expect(readFileSync(await (await saved).path(), 'utf8')).toMatch(
    /Ladder,Cases,"Failed, GBP",.*\r\nSteady,3,/,
  );
  await page.getByLabel('Months').selectOption('3');
  await expect(page.getByText(/^3 months before:/).first()).toBeVisible();
});

test('what is about to be sent is held, let go or taken back, one by one or all; the effect is shown first', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/letters?search=cleo`);
  await page.getByRole('button', { name: 'Hold all letters' }).click();
  await expect(page.getByText('All letters to customers are held since Sun 7 Feb 2027.')).toBeVisible();
  await isAccessible(page);
  // Every screen says so, as long as it lasts.
  const banner = page.getByRole('status').filter({ hasText: /^Letters to customers are held since/ });
  await page.goto(`${home}/plans`);
  await expect(banner).toBeVisible();
  await page.goto(`${home}/letters?search=cleo`);
  await page.getByRole('row', { name: /Your payment for Hive Watch did not go through/ }).click();
  await margin(page).getByRole('button', { name: 'Hold back' }).click();
  const hold = margin(page).getByRole('group', { name: 'Hold back' });
  await expect(hold).toContainText('It is held until somebody lets it go.');
  await hold.getByRole('button', { name: 'Hold back' }).click();
  await expect(margin(page)).toContainText('Held back by');
  await isAccessible(page);
  await page.getByRole('button', { name: /^Let all letters go/ }).click();
  await expect(page.getByText('Letters go out as they are written, outside of quiet hours.')).toBeVisible();
  await expect(banner).toBeHidden();
  const link = page.getByRole('link', { name: /about to be sent, 1 of them held/ });
  await link.click();
  await page.getByLabel(/^Choose the letter to Cleo Fenn: Your payment/).check();
  await page.getByLabel(/^Choose the letter to Edna Fenn: Your card/).check();
  const chosen = page.getByRole('region', { name: 'What is chosen' });
  await chosen.getByRole('button', { name: 'Let go' }).click();
  await expect(chosen).toContainText('1 of 2 letters.');
  await expect(chosen).toContainText('Left out: Edna Fenn');
  await chosen.getByRole('button', { name: 'Take back' }).click();
  await chosen.getByRole('button', { name: 'Take back (2)' }).click();
  await expect(chosen).toContainText('2 of 2 letters. Done.');
  await page.getByLabel('State').selectOption('taken back');
  await expect(page.getByRole('row', { name: /Edna Fenn: Your card/ })).toContainText('taken back');
  await expect(page.getByLabel('Search letters'), 'a link asks anew').toHaveValue('');
});
