import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Browser, type Page } from '@playwright/test';
import { bringIn, Desk } from './support/desk.ts';
import { ProductServer } from './support/server.ts';
import { knownSound, writeWav } from './support/sounds.ts';

const PASSWORD = 'grey heron above the weir';
let server: ProductServer;
test.beforeAll(async () => void (server = await ProductServer.create({ EUPHONOS_SHARED: '1', EUPHONOS_DEMO: 'none' })));
test.afterAll(() => server.kill());

async function accessible(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 90)).join(' | ')}`)).toEqual([]);
}

/** Follows a link in a browser of their own. */
async function join(browser: Browser, link: string, name: string): Promise<Page> {
  const page = await (await browser.newContext()).newPage();
  await page.goto(link);
  await page.getByLabel('Your name').fill(name);
  await page.getByLabel('Address').fill(`${name.split(' ')[0]!.toLowerCase()}@tidemill.example`);
  await page.getByLabel('Password').fill(PASSWORD);
  await accessible(page);
  await page.getByRole('button', { name: 'Make the account' }).click();
  await expect(page.getByRole('button', { name })).toBeVisible();
  return page;
}

async function invite(owner: Page, name: string, role: string): Promise<string> {
  await owner.getByLabel('Whom to invite').fill(name);
  const choice = owner.getByRole('radio', { name: role });
  if (await choice.isVisible()) await choice.click();
  await owner.getByRole('button', { name: 'Make a link' }).click();
  await expect(owner.getByText(`Send this to ${name}.`)).toBeVisible();
  return owner.getByLabel('The link').inputValue();
}

test('a studio: invited, shared, heard, said, changed, heard again, accepted; and out', async ({ browser }) => {
  await expect.poll(() => server.printed).toContain('/invitation#');
  const first = /http\S+\/invitation#\S+/.exec(server.printed)![0];
  const owner = await join(browser, first, 'Orla Fenn');
  // The link works once, and nobody else comes in.
  const stranger = await (await browser.newContext()).newPage();
  await stranger.goto(first);
  await expect(stranger.getByRole('alert')).toContainText('has been used');
  await stranger.goto(server.address);
  await expect(stranger.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await accessible(stranger);
  await stranger.getByLabel('Address').fill('orla@tidemill.example');
  await stranger.getByLabel('Password').fill('not this one');
  await stranger.getByRole('button', { name: 'Sign in' }).click();
  await expect(stranger.getByRole('alert')).toContainText('not right');

  const seconds = 10;
  const desk = await bringIn(owner, server.address, writeWav('ferry.wav', knownSound(seconds)), seconds);
  await desk.saved();
  await owner.goto(server.address);
  await owner.getByRole('checkbox', { name: 'Choose ferry' }).check();
  await owner.getByLabel('Move to a production').selectOption({ label: 'a new production …' });
  await owner.getByLabel('Its name').fill('Ferries');
  await owner.keyboard.press('Enter');
  await owner.getByRole('button', { name: 'Productions …' }).click();
  await owner.getByRole('button', { name: 'Share Ferries' }).click();
  const listener = await join(browser, await invite(owner, 'Lio Marsh', 'listener'), 'Lio Marsh');

  // The listener finds it, and hears it; nothing there changes it.
  await expect(listener.getByRole('heading', { name: 'Sessions' })).toBeVisible();
  await expect(listener.getByRole('button', { name: /Bring in/ })).toHaveCount(0);
  await listener.getByRole('link', { name: 'ferry' }).click();
  await expect(listener).toHaveURL(/\/talk$/);
  const hearing = new Desk(listener, seconds);
  await expect(listener.locator('[data-telling=result]')).not.toContainText('–');
  await hearing.play();
  await hearing.stop();
  await listener.goto(listener.url().replace(/talk$/, 'treat'));
  await expect(listener).toHaveURL(/\/talk$/);
  await expect(listener.locator('[data-telling=result]')).not.toContainText('–');
  await hearing.select(1, 2);
  await listener.keyboard.press('Enter');
  await listener.keyboard.type('Less of the fan here, please.');
  await listener.keyboard.press('Enter');
  await expect(listener.getByRole('heading', { name: '1 comment' })).toBeVisible();
  await listener.getByRole('button', { name: 'Not yet' }).click();
  await expect(listener.getByRole('heading', { name: 'Not yet' })).toBeVisible();
  await accessible(listener);

  // Whoever works on it is told, reads it on the strips, does it and says so.
  await owner.goto(listener.url().replace(/talk$/, 'treat'));
  const step = owner.getByRole('link', { name: /^Talk/ });
  await expect(step).toContainText('1 open, not yet');
  await expect(owner.getByLabel('Lio Marsh listens to this session')).toBeVisible();
  await owner.getByRole('button', { name: 'Less of the fan here, please.' }).click();
  await owner.getByRole('button', { name: 'Settled' }).click();
  await owner.keyboard.press('Escape');
  await expect(step).not.toContainText('open');
  await expect(listener.getByRole('heading', { name: 'Nothing is open' })).toBeVisible();
  await desk.turn('High-pass', false);
  await desk.saved();
  await expect(listener.getByText('The session was changed since you opened it.')).toBeVisible();
  await expect(listener.getByRole('button', { name: 'It is good' })).toBeDisabled();
  await listener.getByRole('button', { name: 'Hear what there is now' }).click();
  await listener.getByRole('button', { name: 'It is good' }).click();
  await expect(listener.getByRole('heading', { name: 'Good, as it is' })).toBeVisible();
  await expect(step).toContainText('good');

  // Signed out elsewhere in the middle of work: the work is kept, and goes on once they are back.
  const elsewhere = await (await browser.newContext()).newPage();
  await elsewhere.goto(server.address);
  await elsewhere.getByLabel('Address').fill('orla@tidemill.example');
  await elsewhere.getByLabel('Password').fill(PASSWORD);
  await elsewhere.getByRole('button', { name: 'Sign in' }).click();
  await expect(elsewhere.getByRole('button', { name: 'Orla Fenn' })).toBeVisible();
  await elsewhere.goto(`${server.address}/account`);
  await expect(elsewhere.getByRole('heading', { name: 'Orla Fenn' })).toBeVisible();
  await accessible(elsewhere);
  await elsewhere.getByRole('button', { name: 'Sign out there' }).click();
  await expect(elsewhere.getByRole('button', { name: 'Sign out there' })).toHaveCount(0);
  await desk.turn('High-pass', true);
  const again = owner.getByRole('dialog', { name: 'Sign in again' });
  await again.getByLabel('Password').fill(PASSWORD);
  await again.getByRole('button', { name: 'Sign in' }).click();
  await expect(again).toHaveCount(0);
  await desk.saved();

  await owner.goto(`${server.address}/people`);
  await expect(owner.getByText('made their account').first()).toBeVisible();
  await expect(owner.getByRole('region', { name: 'Who did what' })).toContainText('worked on ferry');
  await accessible(owner);
  await owner.getByRole('listitem').filter({ hasText: 'lio@tidemill' }).getByRole('button', { name: 'Let go' }).click();
  await listener.reload();
  await expect(listener.getByRole('button', { name: 'Sign in' })).toBeVisible();
});
