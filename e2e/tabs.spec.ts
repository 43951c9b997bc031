import type { Locator, Page } from '@playwright/test';
import { begin, expect, fillStorage, openPlain, settled, storageMayBeFull, test } from './bench-page';

const FIELD = 'red gets blue in percent';
const save = (page: Page): Locator => page.locator('footer [data-save]');
const weight = (page: Page): Locator => page.getByRole('textbox', { name: FIELD, exact: true });
const cards = (page: Page): Locator =>
  page.getByRole('list', { name: 'Documents', exact: true }).getByRole('listitem');
const deleted = (page: Page): Locator => page.locator('ul[aria-label="Deleted documents"] > li');

/** A document in two tabs, the first of which edits it, and the home page in a third. */
async function threeTabs(page: Page): Promise<{ first: Page; second: Page; home: Page }> {
  await openPlain(page, 'jug');
  await begin(page, 'A look');
  const second = await page.context().newPage();
  await second.goto(page.url());
  await expect(save(second)).toHaveText('follows');
  await expect(second.getByText('Edited in another tab.')).toBeVisible();
  const home = await page.context().newPage();
  await home.goto('/');
  await expect(cards(home)).toHaveCount(1);
  return { first: page, second, home };
}

const setWeight = async (page: Page, value: number): Promise<void> => {
  await weight(page).fill(String(value));
  await weight(page).press('Enter');
};

async function choose(home: Page, what: string): Promise<void> {
  await cards(home)
    .first()
    .getByRole('button', { name: /^What to do/ })
    .click();
  await home.getByRole('menuitem', { name: what }).click();
}

type Action = 'rename' | 'delete' | 'end' | 'put back' | 'edit';
const ACTIONS: readonly Action[] = ['rename', 'delete', 'end', 'put back', 'edit'];

/** A row of actions in which each follows each, itself too, once (de Bruijn 1946: a circle through all pairs). */
function everyPair(): Action[] {
  const left = new Set(ACTIONS.flatMap((a) => ACTIONS.map((b) => `${a}>${b}`)));
  const circle: Action[] = [];
  const visit = (at: Action): void => {
    for (const next of ACTIONS) if (left.delete(`${at}>${next}`)) visit(next);
    circle.unshift(at);
  };
  visit('rename');
  return circle;
}

interface Expected {
  name: string;
  weight: number;
  state: 'live' | 'deleted' | 'ended';
}

test('two tabs and the home page: whatever follows whatever, nothing is lost or doubled, and each says what it sees', async ({
  page
}) => {
  test.setTimeout(600_000);
  const { first, second, home } = await threeTabs(page);
  const expected: Expected = { name: 'jug', weight: 0, state: 'live' };
  const row = everyPair();
  expect(row).toHaveLength(26);
  for (const [i, action] of row.entries()) {
    await act(action, i, expected, first, home);
    await test.step(`${i}: ${action}, now ${expected.state}`, () => holds(expected, first, second, home));
  }
  if (expected.state !== 'live') await first.getByRole('button', { name: 'Put it back' }).click();
  await expect(save(first)).toHaveText('saved');
  // All of it is there after a reload, and all of it can be undone.
  await first.reload();
  await second.reload();
  const editing = (await save(first).textContent()) === 'saved' ? first : second;
  await expect(weight(editing)).toHaveValue(String(expected.weight));
  const undo = editing.getByRole('button', { name: 'Undo' });
  while (await undo.isEnabled()) await undo.click();
  await expect(editing.getByRole('list', { name: 'Ways to begin' })).toBeVisible();
  await expect(cards(home)).toHaveCount(1);
});

async function act(action: Action, i: number, expected: Expected, first: Page, home: Page): Promise<void> {
  const { state } = expected;
  const listed = deleted(home);
  if (state === 'deleted') await home.locator('details').evaluate((d: HTMLDetailsElement) => (d.open = true));
  if (action === 'rename' && state === 'live') {
    await choose(home, 'Rename');
    expected.name = `jug ${i}`;
    await home.getByLabel('Name of the document').fill(expected.name);
    await home.keyboard.press('Enter');
  } else if (action === 'delete' && state === 'live') {
    await choose(home, 'Delete');
    expected.state = 'deleted';
  } else if (action === 'end' && state === 'deleted') {
    await listed.getByRole('button', { name: 'Delete for good' }).click();
    await home.getByRole('dialog').getByRole('button', { name: 'Delete for good' }).click();
    expected.state = 'ended';
  } else if (action === 'put back' && state === 'deleted') {
    await listed.getByRole('button', { name: 'Put back' }).click();
    expected.state = 'live';
  } else if (action === 'put back' && state === 'ended') {
    await first.getByRole('button', { name: 'Put it back' }).click();
    expected.state = 'live';
  } else if (action === 'edit') {
    await setWeight(first, i + 1);
    if (state === 'live') expected.weight = i + 1;
    else await expect(first.getByText(/“Put it back” (brings it back|writes it anew)/)).toBeVisible();
  }
}

async function holds(
  { name, weight: value, state }: Expected,
  first: Page,
  second: Page,
  home: Page
): Promise<void> {
  const says = {
    live: ['saved', 'follows'],
    deleted: ['deleted', 'deleted'],
    ended: ['not stored', 'not stored']
  };
  for (const [i, tab] of [first, second].entries()) {
    await expect(save(tab)).toHaveText(says[state][i]);
    await expect(tab.getByRole('heading', { level: 1 })).toHaveText(name);
    await expect(weight(tab)).toHaveValue(String(value));
  }
  await expect(cards(home)).toHaveCount(state === 'live' ? 1 : 0);
  await expect(deleted(home)).toHaveCount(state === 'deleted' ? 1 : 0);
  if (state === 'live') await expect(cards(home)).toContainText(name);
}

test('a second tab takes a document over, and gets it when the first is closed', async ({ page }) => {
  const { first, second } = await threeTabs(page);
  await setWeight(second, 10);
  await expect(second.getByText('“Edit here” takes it over')).toBeVisible();
  await setWeight(first, 20);
  await expect(weight(second)).toHaveValue('20');
  await second.getByRole('button', { name: 'Edit here' }).click();
  await expect(save(second)).toHaveText('saved');
  await expect(save(first)).toHaveText('follows');
  await setWeight(second, 30);
  await expect(weight(first)).toHaveValue('30');
  await second.close();
  await expect(save(first)).toHaveText('saved');
  await setWeight(first, 40);
  await expect(save(first)).toHaveText('saved');
  await first.reload();
  await expect(weight(first)).toHaveValue('40');
});

test('on full storage: what is not saved is asked about, handed out as a file, deleted and put back whole', async ({
  page
}) => {
  await storageMayBeFull(page.context());
  const { first, second, home } = await threeTabs(page);
  await fillStorage(home, true);
  await setWeight(first, 77);
  await expect(save(first)).toHaveText('not saved');
  await expect(first.getByText(/is full\. The last change is not saved/)).toBeVisible();
  await expect(weight(second)).toHaveValue('0');

  await first.getByRole('link', { name: 'Kromba' }).click();
  const asked = first.getByRole('dialog', { name: 'Leave without saving?' });
  await expect(asked).toBeVisible();
  const download = first.waitForEvent('download');
  await asked.getByRole('button', { name: 'Export the document as a file' }).click();
  expect((await download).suggestedFilename()).toBe('jug.kromba');
  await asked.getByRole('button', { name: 'Stay' }).click();
  await expect(asked).toBeHidden();
  await expect(weight(first)).toHaveValue('77');

  // Taking over would lose the change: the tab says so, and keeps it.
  await second.getByRole('button', { name: 'Edit here' }).click();
  await expect(second.getByText(/can’t save its last changes/)).toBeVisible();
  await expect(save(first)).toHaveText('not saved');

  await choose(home, 'Delete');
  await expect(home.getByText(/so full that it can’t be kept under “Deleted”/)).toBeVisible();
  await home.getByRole('dialog').getByRole('button', { name: 'Delete for good' }).click();
  await expect(cards(home)).toHaveCount(0);
  await expect(save(first)).toHaveText('not stored');
  await expect(save(second)).toHaveText('not stored');

  await fillStorage(home, false);
  await first.getByRole('button', { name: 'Put it back' }).click();
  await expect(save(first)).toHaveText('saved');
  await expect(cards(home)).toHaveCount(1);
  await second.close();
  await first.reload();
  await settled(first);
  await expect(weight(first)).toHaveValue('77');
  await first.getByRole('button', { name: 'Undo' }).click();
  await expect(weight(first)).toHaveValue('0');
});

test('a database that is cleared under the page is told, and the document is written anew', async ({
  page
}) => {
  const { first, second, home } = await threeTabs(page);
  await home.evaluate(
    () =>
      new Promise<void>((resolve, reject) => {
        const asked = indexedDB.deleteDatabase('kromba');
        asked.onsuccess = () => resolve();
        asked.onerror = () => reject(new Error('not deleted'));
      })
  );
  await setWeight(first, 12);
  await expect(save(first)).toHaveText('not stored');
  await first.getByRole('button', { name: 'Put it back' }).click();
  await expect(save(first)).toHaveText('saved');
  await expect(cards(home)).toHaveCount(1);
  await second.close();
  await first.reload();
  await settled(first);
  await expect(weight(first)).toHaveValue('12');
});
