import { expect } from './expect';
import { Hand } from './hand';
import { called, signInAsBuilder, test } from './steps';

const csv =
  'Well code;Asked on;Wanted by;Contact;Litres\n' +
  Array.from({ length: 30 }, (_, i) => {
    const day = String(1 + (i % 28)).padStart(2, '0');
    return `AF-0${410 + (i % 20)};2026-11-${day};Person ${i};person.${i}@example.org;${(i * 7.5).toFixed(2)}\n`;
  }).join('');

test('a CSV becomes a table with relation, class and mask, and a page shows it, in under 40 interactions', async ({
  page,
}) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/access');
  const hand = new Hand(page);
  const button = (name: string | RegExp) => page.getByRole('button', { name });

  await hand.press(page.getByRole('link', { name: /^Data/ }));
  await hand.press(button('+ from a file'));
  await hand.file(page.getByLabel('File', { exact: true }), 'Water wishes.csv', 'text/csv', csv);
  await hand.press(button('Make water_wishes with 30 rows'));
  await hand.press(button(/relate to wells: \d+ of 30 values are found in wells.code/));
  await expect(page.getByText('well → wells')).toBeVisible();
  await hand.press(button(/Give (it|all \d) the data class/));
  await expect(page.getByLabel('Data class of contact')).toHaveText('contact');

  await hand.press(page.getByRole('link', { name: /^Access/ }));
  // Until that stage is there, the tables of the one before have the same names.
  await expect(page.getByRole('link', { name: /^All tables/ })).toBeVisible();
  await hand.press(page.getByRole('link', { name: /^water.wishes/i }));
  await hand.press(page.locator('[data-person]'));
  await hand.write(page.getByLabel('Find a member'), 'Ines Brannock');
  await hand.press(page.getByRole('dialog').getByRole('button').filter({ hasText: 'Ines Brannock' }).first());
  await hand.press(page.getByRole('gridcell', { name: 'water wishes for Well owner: nothing' }));
  await hand.press(button(/^Only where well's owner is/));
  await expect(page.getByTestId('lets-through')).toHaveText(/Lets through [1-9]\d* of 30 for Ines Brannock/);
  for (const [column, level] of [
    ['well_code', 'shown'],
    ['asked_on', 'shown'],
    ['wanted_by', 'shown'],
    ['contact', 'masked'],
    ['litres', 'shown'],
  ] as const) {
    await hand.press(page.getByRole('gridcell', { name: `${called(column)} for Well owner: hidden` }));
    // At once: a press right after the choice must not meet the column that was chosen before.
    await hand.press(page.getByRole('group', { name: 'Level' }).getByText(level, { exact: true }));
    await expect(page.getByRole('gridcell', { name: `${called(column)} for Well owner: ${level}` })).toBeVisible();
  }

  await hand.press(page.getByRole('link', { name: /^Pages/ }));
  await hand.press(button('+ page'));
  await expect(page.getByRole('heading', { name: 'New page' })).toBeVisible();
  await hand.write(page.getByLabel('Title', { exact: true }), 'Water wishes');
  await expect(page.getByRole('heading', { name: 'Water wishes' }).first()).toBeVisible();
  await hand.press(page.getByRole('checkbox', { name: 'Well owner' }));
  await hand.press(button('Section'));
  await hand.press(page.getByRole('dialog').getByRole('button', { name: /^water wishes$/i }));
  const seen = page.getByRole('complementary', { name: 'Seen by' });
  await expect(seen.getByRole('heading', { name: 'Water wishes' })).toBeVisible();
  await expect(seen.getByText('AF-0419').filter({ visible: true }).first()).toBeVisible();
  await expect(seen.getByText(/person\.\d+@/)).toHaveCount(0);
  await expect(seen.getByText('(partly hidden)').first()).toBeAttached();
  console.log(`from a CSV to a page: ${hand.made} interactions`);
  expect(hand.made).toBeLessThan(40);
});
