import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { FullConfig } from '@playwright/test';
import { ProductServer, scratch, type Seed } from './server.ts';

/** The demo, read and surveyed once a run. */
async function demo(): Promise<Seed> {
  const note = join(scratch, 'demo-seed.json');
  if (existsSync(note)) return JSON.parse(readFileSync(note, 'utf8')) as Seed;
  const seed = await (await ProductServer.create()).endAsSeed();
  writeFileSync(note, JSON.stringify(seed));
  return seed;
}

/** A server for each worker, so that none sees what another does; tests that end theirs have their own. */
export default async function setup({ workers }: FullConfig): Promise<() => Promise<void>> {
  const seed = await demo();
  const servers: ProductServer[] = [];
  // A database cannot be copied twice at once.
  for (let i = 0; i < workers; i++) servers.push(await ProductServer.create({}, seed));
  process.env['EUPHONOS_E2E_ADDRESSES'] = servers.map(({ address }) => address).join();
  return async () => void (await Promise.all(servers.map((server) => server.kill())));
}
