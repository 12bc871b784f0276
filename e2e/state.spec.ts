import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { address, scratch } from './support/server.ts';

test('the state of the server: room, what failed and why, the session that it belongs to', async ({ page }) => {
  writeFileSync(join(scratch, 'no sound at all.wav'), 'a letter, by mistake');
  await page.goto(address);
  await page.locator('input[type=file]').setInputFiles(join(scratch, 'no sound at all.wav'));
  await page.getByRole('link', { name: 'State of the server' }).click();
  await expect(page.getByRole('img', { name: /^\d+ [GM]B of \d+ GB are free$/ })).toBeVisible();
  const failed = page.getByRole('region', { name: 'What failed in the past seven days' });
  const line = failed.getByRole('listitem').filter({ hasText: 'no sound at all' });
  await expect(line).toContainText('No sound was found in the file');
  await expect(line.getByRole('link', { name: 'no sound at all' })).toBeVisible();
  await expect(page.getByText('None was made here yet.')).toBeVisible();
  await expect(page.getByText(/PostgreSQL \d+/)).toBeVisible();
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 90)).join(' | ')}`)).toEqual([]);
});
